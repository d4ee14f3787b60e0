# SPDX-License-Identifier: MIT
"""Own rows that are kept for all projects: written, read leniently, never in the way."""

from fondale.app.own_shelf import OwnShelf
from fondale.core.model import OwnRow


def row(ident, **values):
    return OwnRow(id=ident, name=ident.upper(), table="coats", section="coat", like="acrylic", values=values)


def test_what_is_kept_is_there_again_and_the_newer_one_counts(tmp_path):
    shelf = OwnShelf(tmp_path)
    assert shelf.rows == ()
    shelf.keep((row("a", film_um=3.0), row("b")))
    shelf.keep((row("a", film_um=4.0),))
    again = OwnShelf(tmp_path)
    assert {r.id: r.values.get("film_um") for r in again.rows} == {"a": 4.0, "b": None}
    again.forget("a")
    assert [r.id for r in OwnShelf(tmp_path).rows] == ["b"]


def test_a_broken_file_is_no_trouble(tmp_path):
    for text in (
        "",
        "{}",
        "[1, 2]",
        "[" * 10_000,
        '[{"id": "a"}]',
        '[{"id":"a","name":"A","table":"coats","section":"coat","values":{"x":1e400}}]',
    ):
        (tmp_path / "own_rows.json").write_text(text)
        assert OwnShelf(tmp_path).rows == ()
    (tmp_path / "file").write_text("in the way")
    shelf = OwnShelf(tmp_path / "file")
    shelf.keep((row("a"),))
    assert [r.id for r in shelf.rows] == ["a"]
