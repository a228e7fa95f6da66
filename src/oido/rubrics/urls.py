from django.urls import path

from oido.rubrics import scale_views, views

urlpatterns = [
    path("rubrics/", views.rubrics, name="rubrics"),
    path("rubrics/new/<slug:kind>/", views.new, name="new-rubric"),
    path("rubrics/<int:pk>/", views.rubric, name="rubric"),
    path("rubrics/preview/<slug:kind>/", views.preview, name="preview-rubric"),
    path("exercises/<int:pk>/scale/", scale_views.scale, name="scale"),
    path("exercises/<int:pk>/scale/takes/<int:number>/", scale_views.take, name="scale-take"),
    path("rubrics/<int:pk>/copy/", views.copy, name="copy-rubric"),
    path("rubrics/<int:pk>/share/", views.share, name="share-rubric"),
]
