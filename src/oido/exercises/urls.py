from django.urls import path

from oido.exercises import views

urlpatterns = [
    path("", views.exercise_list, name="exercises"),
    path("new/", views.new_exercise, name="new-exercise"),
    path("<int:pk>/", views.exercise, name="exercise"),
    path("<int:pk>/part.mid", views.exercise_file, name="exercise-file"),
]
