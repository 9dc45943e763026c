"""Fault cases."""

from django.urls import path

from tempermark.web.trace.board import views
from tempermark.web.trace.corrections import views as correction_views
from tempermark.web.trace.knowledge import views as knowledge_views
from tempermark.web.trace.pictures import views as fault_views

app_name = "trace"
urlpatterns = [
    path("faults/", fault_views.faults, name="faults"),
    path("faults/<slug:code>/", fault_views.fault, name="fault"),
    path("knowledge/", knowledge_views.knowledge, name="knowledge"),
    path("knowledge/checks/", knowledge_views.checks, name="checks"),
    path("knowledge/how-well/", knowledge_views.how_well, name="how-well"),
    path("knowledge/changes/<int:pk>/withdraw/", knowledge_views.withdraw, name="withdraw-change"),
    path("knowledge/<slug:code>/", knowledge_views.cause, name="cause"),
    path("cases/", views.cases, name="cases"),
    path("test-presses/<int:pk>/correct/", correction_views.correct_piece, name="correct-piece"),
    path("test-presses/<int:pk>/withdraw/", correction_views.withdraw_piece, name="withdraw-piece"),
    path("test-presses/<int:pk>/outcome/", correction_views.score, name="score"),
    path("marks/<int:pk>/correct/", correction_views.correct_mark, name="correct-mark"),
    path("marks/<int:pk>/withdraw/", correction_views.withdraw_mark, name="withdraw-mark"),
    path("readings/<int:pk>/correct/", correction_views.correct_reading, name="correct-reading"),
    path("readings/<int:pk>/withdraw/", correction_views.withdraw_reading, name="withdraw-reading"),
    path("checks/<int:pk>/correct/", correction_views.correct_check, name="correct-check"),
    path("checks/<int:pk>/withdraw/", correction_views.withdraw_check, name="withdraw-check"),
    path("test-presses/<int:pk>/trace/", views.open_case, name="open"),
    path("cases/<int:pk>/", views.case, name="case"),
    path("cases/<int:pk>/case.json", views.case_file, name="case-file"),
    path("cases/<int:pk>/reversals/", views.what_would_change, name="reversals"),
    path("cases/<int:pk>/answer/", views.answer, name="answer"),
    path("cases/<int:pk>/check/", views.check, name="check"),
    path("cases/<int:pk>/check/take-back/", views.take_check_back, name="take-check-back"),
    path("cases/<int:pk>/close/", views.close, name="close"),
    path("cases/<int:pk>/normal/", views.close_as_normal, name="close-as-normal"),
    path("cases/<int:pk>/marks/", views.choose_marks, name="choose-marks"),
    path("cases/<int:pk>/reopen/", views.reopen, name="reopen"),
]
