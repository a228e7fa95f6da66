from django.urls import path, re_path

from oido.booklets.views import pages

BOOKLET = r"^booklets/(?P<pk>\d{1,18})"

urlpatterns = [
    path("booklets/", pages.booklets, name="booklets"),
    path("booklets/send/", pages.send, name="send-booklet"),
    path("booklets/import/<int:pk>/", pages.take_in, name="import-booklet"),
    path("booklets/<int:pk>/", pages.booklet, name="booklet"),
    path("booklets/<int:pk>/add/", pages.add_exercises, name="add-to-booklet"),
    path("booklets/<int:pk>/copy/", pages.copy, name="copy-booklet"),
    path("booklets/<int:pk>/booklet.pdf", pages.paper, name="booklet-paper"),
    path("booklets/<int:pk>/booklet.zip", pages.bundle, name="booklet-bundle"),
    path("booklets/<int:pk>/items/<int:number>/", pages.item, name="booklet-item"),
    re_path(
        rf"{BOOKLET}/items/(?P<number>\d{{1,18}})/(?P<way>up|down|out)/$", pages.move_item, name="move-item"
    ),
    re_path(rf"{BOOKLET}/(?P<way>delete|restore)/$", pages.delete, name="delete-booklet"),
    path("exercises/<int:pk>/set/", pages.make_set, name="make-set"),
]
