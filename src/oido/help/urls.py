from django.urls import path

from oido.help import views

urlpatterns = [
    path("", views.index, name="help"),
    path("tours/<slug:slug>/seen/", views.tour_seen, name="tour-seen"),
    path("<slug:slug>/", views.guide, name="guide"),
]
