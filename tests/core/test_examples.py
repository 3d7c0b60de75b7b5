"""The worked examples: each rounds to what was published, and the docs hold what the command prints."""

from pathlib import Path

import pytest

from inchmark.cli import main
from inchmark.cli.examples import Example, as_markdown, examples

DOCS = Path(__file__).parents[2] / "docs" / "examples.md"


@pytest.mark.parametrize("one", list(examples()), ids=lambda one: one.title)
def test_a_published_case_comes_out_as_published(one: Example):
    assert one.agrees
    assert one.source


def test_the_docs_hold_what_the_command_prints(capsys):
    assert main(["examples"]) == 0
    assert capsys.readouterr().out == DOCS.read_text(encoding="utf-8")


def test_a_case_that_does_not_agree_is_seen():
    wrong = Example(
        title="t",
        source="s",
        given="g",
        law="l",
        unit="dB",
        published=32.4,
        digits=1,
        computed=32.5,
    )
    assert not wrong.agrees
    assert "Computed: 32.5 dB" in as_markdown([wrong])
