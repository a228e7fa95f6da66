from django.urls import path, re_path

from oido.classes import views

urlpatterns = [
    path("classes/", views.classes, name="classes"),
    path("classes/<int:pk>/", views.school_class, name="class"),
    path("classes/<int:pk>/name/", views.rename, name="rename-class"),
    path("classes/<int:pk>/forward/", views.forward, name="forward-class"),
    path("classes/<int:pk>/again/", views.give_like, name="give-like"),
    path("classes/<int:pk>/teachers/", views.add_teacher, name="add-teacher"),
    path("classes/<int:pk>/archive/", views.archive, name="archive-class"),
    re_path(r"^classes/(?P<pk>\d{1,18})/(?P<way>up|down)/$", views.move, name="move-class"),
    path("classes/<int:pk>/code/", views.open_code, name="open-code"),
    path("classes/<int:pk>/code/close/", views.close_code, name="close-code"),
]
