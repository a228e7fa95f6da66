from django.urls import path, re_path

from oido.assignments import views

urlpatterns = [
    path("exercises/<int:pk>/give/", views.give, name="give"),
    path("booklets/<int:pk>/give/", views.give_booklet, name="give-booklet"),
    path("assignments/<int:pk>/how/", views.assignment_terms, name="how-given"),
    re_path(r"^assignments/(?P<pk>\d{1,18})/(?P<way>withdraw|restore)/$", views.withdraw, name="withdraw"),
    re_path(r"^assignments/(?P<pk>\d{1,18})/(?P<way>close|open)/$", views.close, name="close"),
    path("assignments/<int:pk>/students/<int:student>/", views.arrange, name="arrange"),
    path("assignments/<int:pk>/remind/", views.remind, name="remind"),
]
