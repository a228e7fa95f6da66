from django.urls import path

from oido.leaving import views

urlpatterns = [
    path("people/<int:pk>/everything/", views.export, name="export-person"),
    path("people/<int:pk>/erase/", views.erase_person, name="erase-person"),
    path("account/everything/", views.export_own, name="export-own"),
    path("school/erased/<slug:receipt>/", views.erasure, name="erasure"),
    path("school/terms/", views.terms, name="terms"),
    path("school/terms/<int:pk>/delete/", views.delete_term, name="delete-term"),
]
