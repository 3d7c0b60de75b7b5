"""The form that takes a shelf file in."""

from django import forms

from inchmark.pages.fields import SmallFileField


class ShelfFileForm(forms.Form):
    """A shelf file."""

    file = SmallFileField(4, label="Shelf file (.json)", help_text="Written by Export, or by hand.")
