"""Addresses of a person: the login with its second factor, and the account. Names that allauth asks for are allauth's."""

from allauth.account.views import reauthenticate
from allauth.mfa.base import views as second
from allauth.mfa.recovery_codes import views as codes
from allauth.mfa.totp import views as app
from allauth.mfa.webauthn import views as passkeys
from django.contrib.auth.views import LogoutView
from django.urls import path
from django.views.generic import RedirectView

from eyot.accounts import views

login, logout = views.LoginView.as_view(), LogoutView.as_view()
to_account = RedirectView.as_view(pattern_name="account")

urlpatterns = [
    path("login/", login, name="login"),
    path("login/", login, name="account_login"),
    path("logout/", logout, name="logout"),
    path("logout/", logout, name="account_logout"),
    path("login/second/", second.authenticate, name="mfa_authenticate"),
    path("login/forgotten/", views.forgotten_page, name="forgotten"),
    path("new-password/<str:token>/", views.new_password_page, name="new-password"),
    path("account/", views.account_page, name="account"),
    path("account/mail/", views.mail_changed, name="change-mail"),
    path("account/logins/<int:number>/end/", views.login_ended, name="end-login"),
    path("account/remove/", views.removal_asked, name="remove-account"),
    path("account/keep/", views.kept, name="keep-account"),
    path("account/again/", reauthenticate, name="account_reauthenticate"),
    path("account/again/second/", second.reauthenticate, name="mfa_reauthenticate"),
    path("account/again/passkey/", passkeys.reauthenticate_webauthn, name="mfa_reauthenticate_webauthn"),
    path("account/second/", to_account, name="mfa_index"),
    path("account/app/", app.activate_totp, name="mfa_activate_totp"),
    path("account/app/off/", app.deactivate_totp, name="mfa_deactivate_totp"),
    path("account/codes/", codes.view_recovery_codes, name="mfa_view_recovery_codes"),
    path("account/codes/new/", codes.generate_recovery_codes, name="mfa_generate_recovery_codes"),
    path("account/passkeys/", to_account, name="mfa_list_webauthn"),
    path("account/passkeys/add/", passkeys.add_webauthn, name="mfa_add_webauthn"),
    path("account/passkeys/<int:pk>/remove/", passkeys.remove_webauthn, name="mfa_remove_webauthn"),
]
