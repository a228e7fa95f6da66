from django.urls import path

from oido.progress import views

urlpatterns = [
    path("progress/", views.own, name="progress"),
    path("students/<int:pk>/progress/", views.student, name="student-progress"),
    path("classes/<int:pk>/progress/", views.school_class, name="class-progress"),
]
