"""Addresses of signing in and of one's own account."""

from django.urls import path

from inchmark.people.views import account, signing_in

urlpatterns = [
    path("sign-in/", signing_in.sign_in, name="sign-in"),
    path("sign-in/<str:secret>/", signing_in.sign_in_link, name="sign-in-link"),
    path("sign-out/", signing_in.sign_out, name="sign-out"),
    # one's own account
    path("account/", account.account, name="account"),
    path("account/figures/", account.figures, name="figures"),
    path("account/password/", account.password, name="password"),
    path("account/tokens/", account.token_add, name="token-add"),
    path("account/tokens/<int:token_id>/revoke/", account.token_revoke, name="token-revoke"),
    path("account/sessions/<int:session_id>/end/", account.session_end, name="session-end"),
    path("account/second-factor/", account.second_factor_on, name="second-factor-on"),
    path("account/second-factor/off/", account.second_factor_off, name="second-factor-off"),
    path("account/end/", account.account_end, name="account-end"),
]
