"""How the tables of the program behave: whole rows, no grid, no row numbers, one wide column."""

from __future__ import annotations

from typing import TYPE_CHECKING

from PyQt6.QtWidgets import QAbstractItemView, QHeaderView, QTableView

from jete.app.theme import scale

if TYPE_CHECKING:
    from collections.abc import Mapping


def set_up(table: QTableView, name: str, widths: Mapping[int, int], stretched: int, row_px: int) -> None:
    """Set up a table that has its model.

    Args:
        table: to set up.
        name: what a screen reader says.
        widths: of the columns that keep their width, in pixels at the usual size of text.
        stretched: the column that takes what is left.
        row_px: height of all rows.
    """
    table.setAccessibleName(name)
    table.setSelectionBehavior(QAbstractItemView.SelectionBehavior.SelectRows)
    table.setSelectionMode(QAbstractItemView.SelectionMode.SingleSelection)
    table.setShowGrid(False)
    table.setTabKeyNavigation(False)
    table.setVerticalScrollMode(QAbstractItemView.ScrollMode.ScrollPerPixel)
    rows, titles = table.verticalHeader(), table.horizontalHeader()
    if rows is None or titles is None:
        return
    rows.hide()
    rows.setSectionResizeMode(QHeaderView.ResizeMode.Fixed)
    rows.setDefaultSectionSize(row_px)
    titles.setHighlightSections(False)
    titles.setSectionResizeMode(stretched, QHeaderView.ResizeMode.Stretch)
    for column, width in widths.items():
        titles.resizeSection(column, round(width * scale()))
