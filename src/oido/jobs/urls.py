from django.urls import path

from oido.jobs import views

urlpatterns = [
    path("jobs/<uuid:pk>/", views.job, name="job"),
    path("jobs/<uuid:pk>/file/", views.file, name="job-file"),
]
