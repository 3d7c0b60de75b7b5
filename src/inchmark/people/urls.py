"""Addresses of signing in."""

from django.urls import path

from inchmark.people import views

app_name = "people"
urlpatterns = [
    path("sign-in/", views.sign_in, name="sign-in"),
    path("sign-in/<str:secret>/", views.sign_in_link, name="sign-in-link"),
    path("sign-out/", views.sign_out, name="sign-out"),
]
