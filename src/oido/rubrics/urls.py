from django.urls import path

from oido.rubrics import views

urlpatterns = [
    path("rubrics/", views.rubrics, name="rubrics"),
    path("rubrics/new/<slug:kind>/", views.new, name="new-rubric"),
    path("rubrics/<int:pk>/", views.rubric, name="rubric"),
    path("rubrics/<int:pk>/copy/", views.copy, name="copy-rubric"),
    path("rubrics/<int:pk>/share/", views.share, name="share-rubric"),
]
