from django.urls import path

from oido.roster.views import joining, lists, people, single_sign_on

urlpatterns = [
    path("school/", people.school, name="school"),
    path("people/", people.people, name="people"),
    path("people/add/", people.add, name="add-person"),
    path("people/list/", lists.send, name="send-list"),
    path("people/list/<int:pk>/", lists.look, name="list"),
    path("people/list/<int:pk>/undo/", lists.undo, name="undo-list"),
    path("people/<int:pk>/", people.person, name="person"),
    path("people/<int:pk>/role/", people.set_role, name="set-role"),
    path("people/<int:pk>/leave/", people.leave, name="leave-school"),
    path("people/<int:pk>/back/", people.come_back, name="return-to-school"),
    path("people/<int:pk>/second/", people.remove_second_factor, name="drop-their-second-factor"),
    path("people/<int:pk>/slip/", people.person_slip, name="person-slip"),
    path("people/<int:pk>/join/", people.join, name="join-class-by-hand"),
    path("people/<int:pk>/leave-class/", people.leave_class, name="leave-class"),
    path("people/invitations/<int:pk>/withdraw/", people.withdraw_invitation, name="withdraw-invitation"),
    path("classes/<int:pk>/slips/", people.class_slips, name="class-slips"),
    path("sign-in/school/", single_sign_on.begin, name="single-sign-on"),
    path("sign-in/school/back/", single_sign_on.come_back, name="single-sign-on-back"),
    path("join/", joining.enter_code, name="enter-code"),
    path("join/<slug:code>/", joining.join_class, name="join-class"),
    path("invitation/<slug:token>/", joining.invitation, name="invitation"),
]
