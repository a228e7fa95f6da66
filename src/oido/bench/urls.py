from django.urls import path, re_path

from oido.bench import views

urlpatterns = [
    path("new/", views.begin, name="begin"),
    path("<int:pk>/", views.bench, name="bench"),
    path("<int:pk>/rows/", views.later_rows, name="bench-rows"),
    path("<int:pk>/playing/", views.playing, name="bench-playing"),
    path("<int:pk>/notation/", views.notation, name="bench-notation"),
    path("<int:pk>/grid/", views.grid, name="grid"),
    path("<int:pk>/labels/", views.set_labels, name="set-labels"),
    path("<int:pk>/keep/", views.save, name="keep"),
    path("<int:pk>/discard/", views.discard, name="discard-begun"),
    path("<int:pk>/versions/", views.versions, name="versions"),
    path("<int:pk>/versions/<int:number>/", views.restore, name="bring-back-version"),
    re_path(r"^(?P<pk>\d+)/(?P<way>undo|redo)/$", views.step, name="step"),
    path("<int:pk>/do/<slug:slug>/", views.use_tool, name="use-tool"),
]
