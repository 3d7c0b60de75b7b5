"""`{% kept study "name" … %}…{% endkept %}`: a part of a page drawn once for a revision of the study.

What it holds may depend on the revision and on the further values named, and on nothing else: no
form with a token, nothing of who looks. Fields of a form that is named among them are kept while it
holds nothing; one that came back with what was typed is drawn as it is.
"""

from __future__ import annotations

from django import template
from django.forms import BaseForm
from django.template.base import FilterExpression, NodeList, Parser, Token
from django.template.context import Context
from django.utils.safestring import SafeString

from inchmark.studies.memory import per_revision

register = template.Library()


class _Kept(template.Node):
    def __init__(self, inside: NodeList, values: list[FilterExpression]) -> None:
        self.inside, self.values = inside, values

    def render(self, context: Context) -> SafeString:
        study, name, *more = (one.resolve(context) for one in self.values)
        if any(isinstance(one, BaseForm) and one.is_bound for one in more):
            return self.inside.render(context)
        more = [one for one in more if not isinstance(one, BaseForm)]
        return per_revision(study, f"part {name}", lambda: self.inside.render(context), *more)


@register.tag
def kept(parser: Parser, token: Token) -> _Kept:
    """Keep what is drawn up to `endkept`."""
    values = [parser.compile_filter(bit) for bit in token.split_contents()[1:]]
    if len(values) < 2:
        raise template.TemplateSyntaxError("kept wants a study and a name")
    inside = parser.parse(("endkept",))
    parser.delete_first_token()
    return _Kept(inside, values)
