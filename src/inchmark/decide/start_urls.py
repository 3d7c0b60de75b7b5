"""The address at which a bundle is brought; there is no study yet that it could lie under."""

from django.urls import path

from inchmark.decide.views import bundle

urlpatterns = [path("", bundle.bring, name="bring-bundle")]
