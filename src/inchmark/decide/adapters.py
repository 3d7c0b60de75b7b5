"""Items of a budget between what a page draws and what is kept: a drawn loss is below zero."""

from __future__ import annotations

from collections.abc import Mapping

from inchmark.core.budget import ItemKey
from inchmark.shelf.models import BudgetItem

ITEM_NAMES: dict[ItemKey, str] = {
    **{ItemKey(key): str(name) for key, name in BudgetItem.ITEMS},
    ItemKey.PATH: "path",
}


def item_from_drawn(key: str, drawn_db: float) -> float:
    """Return an item's value from what it adds [dB].

    Raises
    ------
    ValueError
        A loss above zero, in a sentence.
    """
    item = ItemKey(key)
    if item.is_loss and drawn_db > 0:
        raise ValueError(f"a loss is written below zero, like {-drawn_db:g}.")
    return item.adds_db(drawn_db)


def drawn_from_item(key: str, db: float) -> float:
    """Return what a value of an item adds [dB]."""
    return ItemKey(key).adds_db(db)


def drawn_changes(changes: Mapping[ItemKey, float]) -> list[tuple[str, str]]:
    """Return what-ifs as their boxes hold them."""
    return [(key.value, f"{key.adds_db(db):.2f}") for key, db in changes.items()]
