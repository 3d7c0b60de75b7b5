"""Addresses of learning: they lie under no study, but for a practice's own page."""

from django.urls import path

from inchmark.learn.views import docs, guide, jump, practice

urlpatterns = [
    path("guide/", guide.guide, name="guide"),
    path("guide/<int:number>/", guide.guide_step, name="guide-step"),
    path("guide/end/", guide.guide_end, name="guide-end"),
    path("help/", docs.docs, name="help"),
    path("help/<slug:name>/", docs.doc, name="help-page"),
    path("jump/", jump.jump, name="jump"),
    path("practice/", practice.practice, name="practice"),
    path("practice/begin/", practice.begin, name="practice-begin"),
    path("studies/<int:study_id>/practice/", practice.board, name="practice-board"),
    path("studies/<int:study_id>/practice/walk/", practice.walk, name="practice-walk"),
    path("studies/<int:study_id>/practice/truth/", practice.show_truth, name="practice-truth"),
]
