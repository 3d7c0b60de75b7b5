"""Fields render by one template of ours: label with unit, help, error, input."""

from django.forms.renderers import DjangoTemplates


class FieldRenderer(DjangoTemplates):
    """Django's own renderer with our field template (found through the app directories)."""

    field_template_name = "pages/_field.html"

    def get_template(self, template_name):  # noqa: D102
        if template_name == self.field_template_name:
            from django.template.loader import get_template

            return get_template(template_name)
        return super().get_template(template_name)
