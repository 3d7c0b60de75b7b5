"""Addresses of deciding."""

from django.urls import path

from inchmark.decide.views import across, budget, bundle, decisions, options, places, report

urlpatterns = [
    path("", budget.decide, name="decide"),
    path("line/", across.line, name="line"),
    path("places/", places.places, name="places"),
    path("places/map/", places.places_map, name="places-map"),
    path("decision/", decisions.decision, name="decision"),
    path("report/", report.report, name="report"),
    path("report/make/", report.report_make, name="report-make"),
    path("report.pdf", report.report_pdf, name="report-pdf"),
    path("report.md", report.report_md, name="report-md"),
    path("report.csv", report.report_csv, name="report-csv"),
    path("bundle.zip", bundle.bundle, name="bundle"),
    path("copy/", across.copy, name="copy"),
    path("options/", options.options, name="options"),
    path("rigs/<int:rig_id>/keep/", budget.keep_what_if, name="keep-what-if"),
    path("rigs/<int:rig_id>/items/", budget.item_set, name="item-set"),
    path("items/<int:item_id>/drop/", budget.item_drop, name="item-drop"),
]
