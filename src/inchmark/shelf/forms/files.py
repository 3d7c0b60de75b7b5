"""The form that takes a shelf file in."""

from django import forms


class ShelfFileForm(forms.Form):
    """A shelf file."""

    file = forms.FileField(label="Shelf file (.json)", help_text="Written by Export, or by hand.")
