# SPDX-License-Identifier: MIT
"""Files that come into the print shop and parts that go out of it."""

from functools import partial
from pathlib import Path

from PySide6.QtWidgets import QFileDialog

from fondale.app.errands import CUT, MESH, THIN, Cutting, Import
from fondale.app.workers import Report
from fondale.core.derived import JOBS
from fondale.core.edits import EditError, put
from fondale.core.edits.bringing import add_print, in_unit, thin_in_unit
from fondale.core.edits.printing import HandOver
from fondale.core.lengths import FILE_UNITS
from fondale.core.model import PRINTS, PrintFile
from fondale.core.model.prints import Thin
from fondale.core.prints.cutting import KeyRule
from fondale.core.prints.jobs import PrintJob, room_of
from fondale.core.prints.printers import printer_of
from fondale.core.prints.thin import thin_words
from fondale.core.words import show_mm
from fondale.qt.furniture.dialogs import ask_which, warn
from fondale.qt.stations.bench.print_sizes import OnFile

FILES = "Bodies (*.stl *.obj *.ply *.3mf *.glb)"


def named(file: str) -> str:
    """What a piece made of a file is called: ``landing_crate-v2.stl`` is a Landing crate v2."""
    name = " ".join(Path(file).stem.replace("_", " ").replace("-", " ").split())[:110] or "File"
    return name[0].upper() + name[1:]


class FileDesk(OnFile):
    """Reads, cuts and writes in the background."""

    def ask_and_bring(self) -> None:
        """Ask for files, and bring them."""
        names, _filter = QFileDialog.getOpenFileNames(self.parent, "Bring files", "", FILES)
        if names:
            self.bring(tuple(names))

    def bring(self, paths: tuple[str, ...]) -> None:
        """Read files in the background; they join the print shop and the shelf when they are measured."""
        if not self.session.results.errands.ask(MESH, (paths, ""), self._brought):
            self.session.said.emit("Files are still being read; bring the next ones in a moment.")

    def _brought(self, report: Report) -> None:
        if not report.good:
            return
        found: tuple[Import, ...] = report.found
        unit = ""
        asking = [i for i in found if i.asks_unit and i.facts is not None]
        if asking:
            unit = self.ask_unit(asking[0], len(asking))
            if not unit:
                self.session.said.emit("Nothing was brought: without its unit a file has no size.")
        last, repaired = "", []
        trouble = [i.trouble for i in found if i.trouble]
        project = self.session.project
        for item in found:
            if item.facts is None or (item.asks_unit and not unit):
                continue
            chosen = item.unit or unit
            mm = FILE_UNITS[chosen] if item.asks_unit else 1.0
            facts, thin = in_unit(item.facts, mm), thin_in_unit(item.thin, mm)
            asset = self.session.document.keep_asset("prints", item.name, item.data, item.digest)
            try:
                more, last = add_print(project, named(item.name), asset, chosen, facts, item.skin, item.repairs, thin)
            except EditError as error:
                trouble.append(str(error))
                continue
            if self.session.do(*more, label=f"Bring {item.name}"):
                project = self.session.project
                repaired += [f"{item.name}: {'; '.join(item.repairs)}"] if item.repairs else []
        if last:
            self.session.select(PRINTS, last)
        if trouble:
            warn(self.parent, "Some files could not be brought", "\n\n".join(trouble))
        if repaired:
            self.session.said.emit(f"Repaired: {' '.join(repaired)}.")

    def ask_unit(self, first: Import, count: int) -> str:
        """Ask what one of a file's numbers is; an empty text when the maker would rather not say."""
        assert first.facts is not None
        choices = [f"{u}: {' × '.join(show_mm(s * mm) for s in first.facts.size)}" for u, mm in FILE_UNITS.items()]
        more = f"{count} files state no unit. " if count > 1 else "The file states no unit. "
        answer = ask_which(self.parent, "Which unit?", f"{more}{first.name} is, in", choices)
        return (answer or "").partition(":")[0]

    def ask_and_write(self, ending: str) -> None:
        """Ask for a folder, and write the parts."""
        folder = QFileDialog.getExistingDirectory(self.parent, "Write the parts to")
        if folder:
            self.write_parts(folder, ending)

    def write_parts(self, folder: str, ending: str = ".stl") -> None:
        """Cut the chosen file and write its parts in the background."""
        file = self.file
        data = self.session.document.assets.get(file.asset) if file else None
        if file is None or data is None:
            self.session.said.emit("The file itself is not in the project; bring it again.")
            return
        row = printer_of(self.session.project, file)
        rule = KeyRule(float(row["min_wall"]), float(row["key_air"])) if file.keyed else None
        asked = (data, file, rule, folder, ending, float(row["key_air"]), room_of(row))
        if not self.session.results.errands.ask(CUT, asked, partial(self._written, file)):
            self.session.said.emit("Another file is still being cut.")

    def seek_thin(self) -> None:
        """Look for thin walls in the chosen file, in the background."""
        file = self.file
        data = self.session.document.assets.get(file.asset) if file else None
        if file is None or data is None:
            self.session.said.emit("The file itself is not in the project; bring it again.")
            return
        ident, name = file.id, file.name

        def sought(report: Report) -> None:
            if report.good and self.session.project.find(PRINTS, ident) is not None:
                found: tuple[Thin, ...] = report.found
                self.session.do(put(PRINTS.at(ident).then(lambda f: f.thin), found, f"Thin walls of {name}"))
                self.session.said.emit(
                    thin_words(self.session.project.get(PRINTS, ident)) or f"{name} has no walls that could be measured."
                )

        if not self.session.results.errands.ask(THIN, (data, file), sought):
            self.session.said.emit("Another file is still being looked at.")

    def _written(self, file: PrintFile, report: Report) -> None:
        if not report.good:
            return
        done: Cutting = report.found
        if done.trouble:
            warn(self.parent, "It could not be cut", done.trouble)
            return
        if done.cuts != file.cuts and self.session.project.find(PRINTS, file.id) == file:
            self.session.do(put(PRINTS.at(file.id).then(lambda f: f.cuts), done.cuts, f"Cuts of {file.name} clear of slivers"))
        keys = f", {done.keys} {'key' if done.keys == 1 else 'keys'}" if done.keys else ""
        self.session.said.emit(
            f"Wrote {len(done.written)} {'file' if len(done.written) == 1 else 'files'}: {', '.join(done.written[:4])}{keys}{f'; {done.hollow}' if done.hollow else ''}; the volume agrees to {max(done.error * 100, 0.001):.3f} %.{f' {done.aside}' if done.aside else ''}"
        )

    def job(self) -> PrintJob | None:
        """What printing it takes, once that is known."""
        file = self.file
        return self.session.results.one(JOBS, file.id) if file else None

    def hand_over(self) -> None:
        """Put its steps into the running order."""
        file = self.file
        if file is not None and self.session.do(HandOver(f"Steps for {file.name}", file.id)):
            count = sum(s.file == file.id for s in self.session.project.steps)
            self.session.said.emit(f"{count} steps stand in the running order on Coats, and follow this file.")
