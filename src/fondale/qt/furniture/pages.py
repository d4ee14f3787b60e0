# SPDX-License-Identifier: MIT
"""A station of several pages: a row of words above, one page on show."""

from collections.abc import Callable
from functools import partial
from itertools import chain
from typing import Any, TypeVar

from PySide6.QtCore import QEvent
from PySide6.QtWidgets import QButtonGroup, QHBoxLayout, QPushButton, QSizePolicy, QStackedWidget, QVBoxLayout, QWidget

from fondale.core.edits import put
from fondale.core.model import Listing, Model, Project
from fondale.qt.furniture.columns import parts_of
from fondale.qt.furniture.later import Later
from fondale.qt.furniture.prose import Short
from fondale.qt.furniture.rows import pick
from fondale.qt.furniture.ticket import Editor, Row, Ticket
from fondale.qt.furniture.workplace import Station
from fondale.qt.session import Session, Way
from fondale.qt.theme.palette import wears

T = TypeVar("T")
P = TypeVar("P", bound="Page")
M = TypeVar("M", bound=Model)


class Page(QWidget):
    """One page. ``title`` is on its word, ``shows`` are the project's lists whose things are found here."""

    title = ""
    shows: tuple[Listing[Any], ...] = ()

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session
        self.note = ""
        self._foreseen: list[tuple[Ticket, str, Callable[[], list[Row]]]] = []

    def lay_out(self, content: QWidget) -> None:
        """Fill the page with one thing."""
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.addWidget(content)

    def hasHeightForWidth(self) -> bool:
        """No: long sentences must not push a page out of the window when there is room to draw smaller."""
        return False

    def event(self, event: QEvent) -> bool:
        """The least height follows what the sentences need at this width; drawings count with their least size."""
        done = super().event(event)
        if event.type() in (QEvent.Type.LayoutRequest, QEvent.Type.Resize, QEvent.Type.Show):
            self.keep_least(self.isVisible())
        return done

    def keep_least(self, shown: bool) -> None:
        """Ask for the least height while on show, and for none otherwise."""
        layout = self.layout()
        need = layout.minimumHeightForWidth(self.width()) if shown and layout is not None and layout.hasHeightForWidth() else 0
        if need != self.minimumHeight():
            self.setMinimumHeight(need)

    def parts(self) -> list[QWidget]:
        """What is dressed each by itself."""
        return parts_of(self)

    def preparing(self) -> Way:
        """What takes long the first time, a turn each; what comes of it is kept until the page comes on show."""
        for ticket, what, rows in self._foreseen:
            yield partial(ticket.show_thing, what, "", True, rows)

    def foresee(self, ticket: Ticket, what: str, rows: Callable[[], list[Row]]) -> None:
        """A ticket will show the thing known as ``what``: its fields are made before the page comes on show."""
        self._foreseen.append((ticket, what, rows))

    def refresh(self) -> None:
        """Show the present project and results."""

    def chosen(self, listing: Listing[M]) -> M | None:
        """The chosen thing of a list, or None."""
        return self.session.project.find(listing, self.session.chosen(listing))

    def put_in(self, listing: Listing[M], get: Callable[[M], T], value: T, label: str) -> None:
        """Set a value of the chosen thing of a list."""
        thing: Any = self.chosen(listing)
        if thing is not None:
            self.session.do(put(listing.at(thing.id).then(get), value, f"{label}: {thing.name}"))

    def setter(self, listing: Listing[M], get: Callable[[M], T], label: str) -> Callable[[T], None]:
        """What a field of a ticket calls with a new value."""
        return lambda value: self.put_in(listing, get, value, label)

    def row(
        self, listing: Listing[M], get: Callable[[M], T], label: str, make: Callable[[Callable[[T], None]], Editor]
    ) -> tuple[Editor, Callable[[Project], Any]]:
        """A row of a ticket: what ``make`` makes of the setter shows the value of the chosen thing, and sets it."""

        def read(_project: Project) -> T | None:
            thing = self.chosen(listing)
            return get(thing) if thing is not None else None

        return make(self.setter(listing, get, label)), read


class PagedStation(Station):
    """Makes a page when it is first turned to, and refreshes the one on show; the others when they come on."""

    kinds: tuple[type[Page], ...] = ()

    def __init__(self, session: Session) -> None:
        super().__init__(session)
        self.pages = Later({kind.title: partial(self._make_page, kind) for kind in self.kinds})
        column = QVBoxLayout(self)
        column.setContentsMargins(24, 10, 24, 8)
        column.setSpacing(8)
        head = QWidget()
        row = QHBoxLayout(head)
        row.setContentsMargins(0, 0, 0, 0)
        row.setSpacing(4)
        self._group = QButtonGroup(self)
        self._words: dict[str, QPushButton] = {}
        for title in self.pages:
            self._words[title] = pick(title, lambda _c=False, t=title: self.visit(t), self._group, "page")
            row.addWidget(self._words[title])
        self._ready: set[str] = set()  # pages that came on show turn by turn
        self._note = Short("soft")
        row.addSpacing(12)
        row.addWidget(self._note, 1)
        column.addWidget(head)
        self._stack = QStackedWidget()
        column.addWidget(self._stack, 1)
        self.column = column

    def _make_page(self, kind: type[Page]) -> Page:
        page = kind(self.session)
        page.setSizePolicy(QSizePolicy.Policy.Ignored, QSizePolicy.Policy.Ignored)
        self._stack.addWidget(page)
        return page

    def page_of(self, kind: type[P]) -> P:
        """The page of a kind, on show or not."""
        page = self.pages[kind.title]
        assert isinstance(page, kind)
        return page

    def parts(self) -> list[QWidget]:
        around = [w for w in self.children() if isinstance(w, QWidget) and w is not self._stack]
        return [part for w in around for part in parts_of(w)] + [part for page in self.pages.made.values() for part in page.parts()]

    def make_more(self) -> bool:
        return self.pages.make_one()

    @property
    def page(self) -> Page:
        """The page on show; the first, where none was turned to."""
        self._begin()
        page = self._stack.currentWidget()
        assert isinstance(page, Page)
        return page

    def turn_to(self, title: str) -> None:
        """Show a page."""
        self._put_on(title)
        if self.isVisible():
            self.refresh()
        else:
            self._stale = True

    def visit(self, title: str) -> None:
        """Show a page as its maker turns to it: at once where it stands, and otherwise turn by turn."""
        self.session.leaving.emit()
        self._visit(title, lambda: None)

    def _visit(self, title: str, then: Callable[[], object]) -> None:
        if title in self._ready:
            self.session.turns.stop()  # the later wish counts
            self.turn_to(title)
            then()
        else:
            self.session.turns.run(chain(self._way_to(title), (partial(self.turn_to, title), then)))

    def _way_to(self, title: str) -> Way:
        yield partial(self.pages.__getitem__, title)
        page = self.pages[title]
        yield from page.preparing()
        yield page.refresh
        for part in page.parts():
            if not wears(part, self.session.theme):
                yield partial(self.session.dress_asked.emit, (part,))
        self._ready.add(title)

    def way(self) -> Way:
        if self._group.checkedButton() is None:
            yield from self._way_to(self.kinds[0].title)
            yield self._begin
        yield from super().way()

    def _begin(self) -> bool:
        """Put the first page on, if none was turned to yet."""
        begins = self._group.checkedButton() is None
        if begins:
            self._put_on(self.kinds[0].title)
        return begins

    def _put_on(self, title: str) -> None:
        self._words[title].setChecked(True)
        chosen = self.pages[title]
        # Only the page on show says how much room is needed.
        for name, page in self.pages.made.items():
            policy = QSizePolicy.Policy.Preferred if name == title else QSizePolicy.Policy.Ignored
            page.setSizePolicy(policy, policy)
            if name != title:
                page.keep_least(False)
        self._stack.setCurrentWidget(chosen)
        self.session.dress_asked.emit(self.undressed())
        if self.isVisible():
            self.session.came_on.emit()

    def refresh(self) -> None:
        self.page.refresh()
        self._note.setText(self.page.note)

    def show_subject(self, listing: Listing[Any], ident: str) -> None:
        for kind in self.kinds:
            if listing in kind.shows:
                self._visit(kind.title, partial(super().show_subject, listing, ident))
                break
        else:
            super().show_subject(listing, ident)
