"""Addresses that lie under no study: where a bundle is brought, and the view over all of one's own."""

from django.urls import path

from inchmark.decide.views import across, bundle

urlpatterns = [
    path("bring/", bundle.bring, name="bring-bundle"),
    path("across/", across.across, name="across"),
]
