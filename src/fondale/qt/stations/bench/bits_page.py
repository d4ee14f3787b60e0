# SPDX-License-Identifier: MIT
"""The bits box: drawers of bits; type a need and the best float up."""

import re
from pathlib import Path
from typing import get_args

from PySide6.QtWidgets import QFileDialog, QHBoxLayout, QLineEdit, QVBoxLayout

from fondale.app.errands import TABLE, TableImport
from fondale.app.workers import Report
from fondale.core.bits.asking import Asked, parse_need
from fondale.core.bits.reads import likenesses, reads_as
from fondale.core.bits.search import ROUND_ONES, pack, rank, wanted
from fondale.core.edits import Remove
from fondale.core.edits import put as put_value
from fondale.core.edits.boxes import add_bit, add_need, bring_bits, use_bit
from fondale.core.lengths import LengthError, parse_length, parse_real, parse_scale
from fondale.core.materials import materials_by_name
from fondale.core.model import BITS, NEEDS, PIECES, Bit, Need
from fondale.core.model.bench import Outline, State
from fondale.core.sayings import sayings
from fondale.core.spreadsheets import PLAIN, Signs
from fondale.core.words import clipped, digits, show_scale, with_article
from fondale.qt.furniture.again import Again
from fondale.qt.furniture.columns import Columns
from fondale.qt.furniture.dialogs import TABLES, ask_which, signs_of, warn, write_file
from fondale.qt.furniture.fields import Choice, Field, number, words
from fondale.qt.furniture.pages import Page
from fondale.qt.furniture.prose import Prose, on_a_button
from fondale.qt.furniture.rows import action, heading
from fondale.qt.furniture.ticket import Row, Ticket
from fondale.qt.session import Session
from fondale.qt.stations.bench.bit_cells import BitCells, NeedCells, real_words, sizes_words

MOST = 48
LINE_LEAST = 300
CAPTION = 66
AGAIN = ("They become what the table says", "They come in once more, as other bits")


def parse_sizes(text: str) -> tuple[float, ...]:
    """``8.7 x 12 mm`` as sizes in mm: two, or three. Raises LengthError."""
    parts = [p for p in text.lower().replace("×", "x").replace("ø", "").replace("mm", "").split("x") if p.strip()]
    sizes = tuple(parse_length(p) for p in parts)
    if not 2 <= len(sizes) <= 3:
        raise LengthError("Two or three sizes, with x between: 8.7 x 12.")
    return sizes


class BitsPage(Page):
    """Needs on the left, bits in the middle, the ticket of the chosen bit on the right."""

    title = "Bits box"
    shows = (BITS, NEEDS)

    def __init__(self, session: Session) -> None:
        super().__init__(session)
        self._box = pack(())
        self._order: list[int] = []
        self._asking: object = None
        self._on_show: Bit | None = None
        self._showing: object = ()
        self._asked: Asked | None = None
        self._need_text = ""
        self._followed = ""
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(6)
        row = QHBoxLayout()
        self.line = QLineEdit()
        self.line.setAccessibleName("What is needed")
        self.line.setPlaceholderText("What is needed? For example: drum, 300 mm across, 420 long")
        self.line.setToolTip(f"Sizes may be said by people: table, 2 x shoulder wide, {', '.join(sayings()[:5])}")
        self.line.textChanged.connect(self._typed)
        self.keep = action("Keep as a need", self._keep)
        row.addWidget(self.keep)
        row.addWidget(action("Add a bit", self._add))
        row.addWidget(action("Bring a table…", self._bring, "A CSV file: one row a bit"))
        row.addWidget(action("Write a table…", self._write, "The box as a CSV file"))
        column.addWidget(Columns(8, (self.line, 1), (row, 0)))
        self._said = Prose("soft")
        column.addWidget(self._said)
        left = QVBoxLayout()
        head, _note = heading("Needs")
        left.addLayout(head)
        self.needs = NeedCells(session)
        self.needs.chosen.connect(self._choose_need)
        frame = self.needs.framed()
        frame.setMinimumWidth(186)
        left.addWidget(frame, 1)
        self.need_ticket = Ticket(1)
        self.need_ticket.removed.connect(self._drop_need)
        self.foresee(self.need_ticket, f"need {len(session.project.photos)}", self._need_rows)
        left.addWidget(self.need_ticket)
        self._need_row = QHBoxLayout()
        self.met = action("Met", self._met)
        self._need_row.addWidget(self.met)
        self._need_row.addStretch(1)
        left.addLayout(self._need_row)
        self.bits = BitCells(session)
        self.bits.chosen.connect(lambda i: session.select(BITS, i))
        right = QVBoxLayout()
        self.ticket = Ticket(1)
        self.ticket.removed.connect(self._remove_bit)
        self.foresee(self.ticket, "bit", self._rows)
        right.addWidget(self.ticket)
        self._reads = Prose()
        right.addWidget(self._reads)
        self.use = action("Use it", self._use)
        self.lose = action("It is lost", self._lose)
        right.addWidget(self.use)
        right.addWidget(self.lose)
        self.again = Again(session, lambda: (BITS, self.bit.id) if self.bit is not None else None)
        self.ticket.line.addWidget(self.again.button)
        self.need_again = Again(session, lambda: (NEEDS, session.chosen(NEEDS)) if session.chosen(NEEDS) else None)
        self._need_row.insertWidget(1, self.need_again.button)
        right.addStretch(1)
        column.addWidget(Columns(14, (left, 2), (self.bits.framed(), 5), (right, 3)), 1)

    @property
    def bit(self) -> Bit | None:
        """The chosen bit among those on show."""
        ident, shown = self.session.chosen(BITS), self.bits.things
        if shown and self.bits.matches and ident not in self.bits.matches:
            ident = shown[0].id
        found = self.session.project.find(BITS, ident) if shown else None
        return found if isinstance(found, Bit) else None

    @property
    def need(self) -> Need | None:
        """The need that the line asks for, as long as the line says nothing else."""
        found = self.session.project.find(NEEDS, self._followed) if self.line.text() == self._need_text else None
        return found if isinstance(found, Need) else None

    def _typed(self) -> None:
        """The best bit for what is typed is the chosen one."""
        self._search()
        if self.bits.matches:
            self.session.select(BITS, next(iter(self.bits.matches)))
        self._show_bit()

    def _search(self) -> None:
        """Ask the box for what the line says, unless it has answered that already."""
        project, need = self.session.project, self.need
        self.needs.show_things(project.needs, need.id if need is not None else "")
        for widget in (self.met, self.need_again.button, self.need_ticket):
            widget.setVisible(need is not None)
        if need is not None:
            self.need_ticket.show_thing(f"need {len(project.photos)}", need.name, True, self._need_rows)
            self.need_ticket.read(project)
        self.met.setText("Open again" if need is not None and need.made else "Met")
        if project.bits is not self._box.bits:
            self._box = pack(project.bits, self._box)
            there = sum(b.count for b in project.bits if b.state == "in the box")
            lost = sum(b.state == "lost" for b in project.bits)
            self.note = f"{there} in the box" + (f", {lost} lost" if lost else "")
        asking = (project.bits, self.line.text(), need, project.brief.house_n)
        if asking == self._asking:
            return
        self._asking, self._asked, said = asking, None, ""
        text = self.line.text().strip()
        if text and need is None:
            try:
                self._asked = parse_need(text, project.brief.house_n)
            except LengthError as error:
                said = str(error)
        self._said.setProperty("role", "error" if said else "soft")
        self._said.style().unpolish(self._said)
        self._said.style().polish(self._said)
        found = self._rank()
        self._said.setText(said or found)
        self.keep.setEnabled(self._asked is not None)

    def _wanted(self) -> Need | None:
        """What the line asks for, as a need; the scale that it names counts."""
        if self._asked is None:
            return self.need
        return Need(id="asked", name=self._asked.name, outline=self._asked.outline, real=self._asked.real)

    def _rank(self) -> str:
        """Let the best bits float up, or lay all out by their drawers; what was found, in words."""
        want = self._wanted()
        if want is None:
            bits = self._box.bits
            keys = [(b.state != "in the box", b.drawer.lower(), b.name.lower()) for b in bits]
            # Sorting what is nearly in order takes no time.
            self._order = sorted(self._order if len(self._order) == len(bits) else range(len(bits)), key=keys.__getitem__)
            self.bits.show_bits([bits[i] for i in self._order], {})
            return ""
        n = (self._asked.n if self._asked else None) or self.session.project.brief.house_n
        found = rank(self._box, want, n, MOST)
        by_id = {b.id: b for b in self._box.bits}
        model = wanted(want, n)
        self.bits.show_bits([by_id[m.bit] for m in found], {m.bit: m for m in found}, (want.outline, model))
        if not found:
            return "The box is empty."
        good = sum(m.verdict in ("as it is", "to trim") for m in found)
        serve = f"{good or 'No'} {'bit serves' if good == 1 else 'bits serve'}"
        return f"{want.name}, {want.outline}: {real_words(want)}, {sizes_words(want.outline, model)} at {show_scale(n)}. {serve}."

    def _show_bit(self) -> None:
        bit, need = self.bit, self.need
        self.bits.show_things(self.bits.things, bit.id if bit is not None else "")
        match, want = self.bits.matches.get(bit.id) if bit is not None else None, self._wanted()
        showing = (bit, need, match, self.session.project.brief.house_n)
        if showing == self._showing:
            return
        self._showing, self._on_show = showing, bit
        self.ticket.setVisible(bit is not None)
        self.use.setVisible(bit is not None)
        self.lose.setVisible(bit is not None)
        if bit is None:
            self._reads.setText("")
            return
        self.ticket.show_thing("bit", bit.name, True, self._rows)
        self.ticket.read(self.session.project)
        there = bit.state == "in the box" and bit.count > 0
        like = [k.name for k in likenesses(bit.outline, bit.sizes, self.session.project.brief.house_n)]
        more = f" It could also be {' or '.join(map(with_article, like[1:]))}." if len(like) > 1 else ""
        serves = f"For {clipped(want.name, 40)}: {match.trim}.\n" if match is not None and want is not None else ""
        if serves and want is not None and want.count > 1:
            serves += f"{want.count} are needed, {bit.count} of these are there.\n"
        self._reads.setText(serves + reads_as(bit, self.session.project.brief.house_n) + more)
        self.use.setEnabled(there)
        self.use.setText(on_a_button(f"Use it for {clipped(need.name, 26)}") if need is not None and not need.made else "Use it")
        self.lose.setText("It is lost" if bit.state != "lost" else "It is found")

    def _rows(self) -> list[Row]:
        fields = (
            self.row(BITS, lambda b: b.name, "Rename", lambda put: Field("name", words(1, 120), str, put)),
            self.row(BITS, lambda b: b.outline, "Outline", lambda put: Choice("outline", [(o, o) for o in get_args(Outline)], put)),
            self.row(BITS, lambda b: b.sizes, "Sizes", lambda put: Field("sizes", parse_sizes, lambda v: " × ".join(digits(s, 2) for s in v) + " mm" if v else "", put)),
            self.row(BITS, lambda b: b.native_n, "Native scale", lambda put: Field("scale", lambda t: parse_scale(t) if t.strip() else 0.0, lambda v: show_scale(v) if v else "", put)),
            self.row(BITS, lambda b: b.material, "Material", lambda put: Choice("material", materials_by_name, put)),
            self.row(BITS, lambda b: b.source, "Source", lambda put: Field("source", words(0, 120), str, put)),
            self.row(BITS, lambda b: b.drawer, "Drawer", lambda put: Field("drawer", words(0, 40), str, put)),
            self.row(BITS, lambda b: b.count, "Count", lambda put: Field("how many", lambda t: round(number(0, 100_000)(t)), lambda v: digits(v, 0), put)),
            self.row(BITS, lambda b: b.state, "State", lambda put: Choice("state", [(s, s) for s in get_args(State)], put)),
            self.row(BITS, lambda b: b.note, "Note", lambda put: Field("note", words(0), str, put)),
        )  # fmt: skip
        return [(f.caption_width(CAPTION), read) for f, read in fields]

    def _need_rows(self) -> list[Row]:
        def sizes(text: str) -> tuple[float, ...]:
            parts = [part for part in re.split(r"\s*[x×,]\s*", text.strip()) if part]
            unit = re.sub(r"^[\d.,\s]*", "", parts[-1]) if parts else ""  # what is said of the last goes for all that say nothing
            return tuple(
                parse_real(part if re.search(r"[a-z\"']", part) else f"{part} {unit}", self.session.project.brief.house_n) for part in parts
            )

        photos = [("", "none"), *((p.id, p.name) for p in self.session.project.photos)]
        fields = (
            self.row(NEEDS, lambda n: n.name, "Rename", lambda put: Field("need", words(1, 120), str, put)),
            self.row(NEEDS, lambda n: n.outline, "Outline", lambda put: Choice("outline", [(o, o) for o in get_args(Outline)], put)),
            self.row(NEEDS, lambda n: n.real, "Real sizes", lambda put: Field("really", sizes, lambda v: " × ".join(digits(s, 1) for s in v) + " mm" if v else "", put)),
            self.row(NEEDS, lambda n: n.give_mm, "Give", lambda put: Field("give", number(0, 1e6, "mm"), lambda v: f"{digits(v, 0)} mm", put)),
            self.row(NEEDS, lambda n: n.count, "Count", lambda put: Field("how many", lambda t: round(number(1, 1000)(t)), lambda v: digits(v, 0), put)),
            self.row(NEEDS, lambda n: n.photo, "Photograph", lambda put: Choice("photo", photos, put)),
        )  # fmt: skip
        return [(f.caption_width(CAPTION), read) for f, read in fields]

    def _choose_need(self, ident: str) -> None:
        """Put a need into the line; the best bit for it is the chosen one."""
        need = self.session.project.find(NEEDS, ident)
        if isinstance(need, Need):
            self._followed, self._need_text = ident, need_line(need)
            self.session.select(NEEDS, ident)
            if self.line.text() != self._need_text:
                self.line.setText(self._need_text)
                self.line.setCursorPosition(0)
            else:
                self._typed()

    def _follow(self) -> None:
        """A need that was chosen elsewhere goes into the line, and at first the first open one."""
        chosen = self.session.selected.get(NEEDS, "")
        if not chosen and not self._followed:
            chosen = next((n.id for n in self.session.project.needs if not n.made), "")
        if chosen and chosen != self._followed:
            self._choose_need(chosen)

    def _keep(self) -> None:
        want = self._wanted()
        if want is not None:
            edit, ident = add_need(self.session.project, want.name, want.outline, want.real)
            if self.session.do(edit):
                self.session.select(NEEDS, ident)

    def _met(self) -> None:
        need = self.need
        if need is not None:
            self.put_in(NEEDS, lambda n: n.made, not need.made, "Open again" if need.made else "Met")

    def _drop_need(self) -> None:
        need = self.need
        if need is not None:
            self.session.do(Remove(f"No {need.name} needed", NEEDS, need.id))

    def _add(self) -> None:
        edit, ident = add_bit(self.session.project)
        if self.session.do(edit):
            self.line.clear()
            self.session.select(BITS, ident)
            self.refresh()
            name = self.ticket.rows[0][0]
            assert isinstance(name, Field)
            name.edit.setFocus()
            name.edit.selectAll()

    def _remove_bit(self) -> None:
        bit = self.bit
        if bit is not None:
            self.session.do(Remove(f"Remove {bit.name}", BITS, bit.id))

    def _use(self) -> None:
        bit, need = self.bit, self.need
        if bit is None:
            return
        edits, piece = use_bit(self.session.project, bit, need if need is not None and not need.made else None)
        if self.session.do(*edits, label=f"Use {bit.name}"):
            self.session.select(PIECES, piece)
            self.session.said.emit(f"{bit.name} is out of the box and on the shelf.")

    def _lose(self) -> None:
        bit = self.bit
        if bit is not None:
            state: State = "in the box" if bit.state == "lost" else "lost"
            word = "Found" if bit.state == "lost" else "Lost"
            self.session.do(put_value(BITS.at(bit.id).then(lambda b: b.state), state, f"{word}: {bit.name}"))

    def _bring(self) -> None:
        name, _filter = QFileDialog.getOpenFileName(self, "Bring a table of bits", "", "Tables (*.csv *.tsv *.txt)")
        if name:
            self.bring(Path(name))

    def bring(self, path: Path) -> None:
        """Read a table in the background; its bits come into the box as one step of undo."""
        taken = tuple(b.id for b in self.session.project.bits)
        if not self.session.results.errands.ask(TABLE, (str(path), taken), self._brought):
            self.session.said.emit("A table is still being read; bring the next one in a moment.")

    def _brought(self, report: Report) -> None:
        if not report.good:
            return
        found: TableImport = report.found
        if found.table is None:
            warn(self, "It cannot be read", found.trouble)
            return
        table, project = found.table, self.session.project
        there = {b.id for b in project.bits}.intersection(table.ids)
        chosen: str | None = ""
        if there:
            words = f"{len(there)} of the {len(table.bits)} bits in {found.name} are in the box already. What of them?"
            chosen = ask_which(self, "Bring a table", words, AGAIN)
            if chosen is None:
                self.session.said.emit("Nothing was brought.")
                return
        if table.bits and not self.session.do(bring_bits(project, table.bits, table.ids if chosen == AGAIN[0] else ())):
            return
        said = f"{len(table.bits)} bits came from {found.name}."
        if table.troubles:
            more = f"\nand {len(table.troubles) - 12} more." if len(table.troubles) > 12 else ""
            warn(self, "Some rows were left out", f"{said}\n\n" + "\n".join(table.troubles[:12]) + more)
        self.session.said.emit(said)

    def _write(self) -> None:
        name, kind = QFileDialog.getSaveFileName(self, "Write a table of bits", "bits.csv", ";;".join(TABLES))
        if name:
            self.write(Path(name), signs_of(kind))

    def write(self, path: Path, signs: Signs = PLAIN) -> bool:
        """Write the box as a table."""
        from fondale.storage.bits_csv import write_bits

        return write_file(self, self.session, path, write_bits(self.session.project.bits, signs).encode())

    def refresh(self) -> None:
        """Follow the project."""
        self.line.setMinimumWidth(self.session.theme.px(LINE_LEAST))
        self._follow()
        self._search()
        self._show_bit()


def need_line(need: Need) -> str:
    """A need as it would be typed."""
    if need.outline in ROUND_ONES:
        return f"{need.name}, {digits(need.real[0], 1)} mm across" + (f", {digits(need.real[1], 1)} mm long" if len(need.real) > 1 else "")
    return f"{need.name}, {' x '.join(digits(r, 1) for r in need.real)} mm"
