"""Root addresses: rooms hang under their study."""

from django.urls import include, path

from inchmark.walk.api import api
from inchmark.walk.views.http_api import http_api

urlpatterns = [
    path("", include("inchmark.upkeep.urls")),
    path("", include(("inchmark.people.urls", "people"))),
    path("", include(("inchmark.studies.urls", "studies"))),
    path("studies/<int:study_id>/shelf/", include(("inchmark.shelf.urls", "shelf"))),
    path("studies/<int:study_id>/plan/", include(("inchmark.plan.urls", "plan"))),
    path("studies/<int:study_id>/walk/", include(("inchmark.walk.urls", "walk"))),
    path("studies/<int:study_id>/read/", include(("inchmark.read.urls", "read"))),
    path("studies/<int:study_id>/decide/", include(("inchmark.decide.urls", "decide"))),
    path("workbench/", include("inchmark.workbench.urls")),
    path("begin/", include("inchmark.walk.start_urls")),
    path("", include("inchmark.decide.start_urls")),
    path("", include("inchmark.learn.urls")),
    path("field/", include("inchmark.walk.field_urls")),
    path("api/", http_api, {"schema": api.get_openapi_schema}, name="http-api"),
    path("api/", api.urls),
]
handler404 = "inchmark.pages.errors.not_found"
handler500 = "inchmark.pages.errors.failed"
