"""The house's rules: arrows run down only, Qt stays in ui, documents' links lead somewhere."""

import ast
import os
import re
import subprocess
import sys
import unittest
from collections import Counter
from collections.abc import Iterable
from pathlib import Path

ROOT = Path(__file__).resolve().parent.parent
FLOORS = {
    "record": -1,
    "cached": -1,
    "units": 0,
    "progress": 0,
    "outside": -1,
    "apart": 1,
    "slow": 0,
    "files": 0,
    "geometry": 1,
    "pixels": 2,
    "lettering": 2,
    "job": 3,
    "formats": 4,
    "machines": 4,
    "gather": 5,
    "trueup": 5,
    "trace": 5,
    "mend": 5,
    "make": 5,
    "prove": 5,
    "leaving": 6,
    "cli": 7,
    "ui": 7,
    "__main__": 8,
}
ROOMS = {
    "look": 0,
    "model": 1,
    "canvas": 2,
    "controls": 2,
    "demo": 2,
    "stages": 3,
    "shell": 4,
    "app": 5,
    "": 5,
}
"""The rooms of the interface, likewise."""
HELD = ("messages", "document", "selection", "desk")
"""What the session holds: each may know those before it, and none the session or a tool."""
STAGES = {"gather", "trueup", "trace", "mend", "make", "prove"}


def breaches(module: str, source: str) -> list[str]:
    """What in a module's source goes against the house; `module` as draxet.geometry.spans."""
    room = module.split(".")[1] if "." in module else "__init__"
    found = []
    for node in ast.walk(ast.parse(source)):
        names = (
            [a.name for a in node.names]
            if isinstance(node, ast.Import)
            else [node.module or ""]
            if isinstance(node, ast.ImportFrom)
            else []
        )
        for name in names:
            if name.split(".")[0] == "PyQt6" and room != "ui":
                found.append(f"{module} imports Qt")
            if not name.startswith("draxet.") or room == "__init__":
                continue
            other = name.split(".")[1]
            if room == other == "ui":
                found += breaches_of_rooms(module, name)
            if FLOORS[other] > FLOORS[room] or (other != room and FLOORS[other] == FLOORS[room]):
                found.append(f"{module} imports {name}, which is not below it")
    return found


def breaches_of_rooms(module: str, name: str) -> list[str]:
    """What an import within the interface goes against: a room knows those below it alone, and a
    stage no other one."""
    mine, others = (each.split(".")[2:] for each in (module, name))
    room, other = (mine or [""])[0], (others or [""])[0]
    if ROOMS[other] > ROOMS[room] or (other != room and ROOMS[other] == ROOMS[room]):
        return [f"{module} imports {name}, which is not below it"]
    if room == other == "model" and mine[1] in HELD and others[1] in (*HELD, "session", "tool"):
        if others[1] not in HELD[: HELD.index(mine[1])]:
            return [f"{module} imports {name}, which stands after it"]
    stages = [each[1] for each in (mine, others) if len(each) > 1 and each[0] == "stages"]
    if len(stages) == 2 and set(stages) <= STAGES and stages[0] != stages[1]:
        return [f"{module} imports another stage's {name}"]
    return []


def circles(imports: dict[str, set[str]]) -> list[list[str]]:
    """Import circles among modules."""
    done: set[str] = set()
    found: list[list[str]] = []

    def visit(module: str, way: list[str]) -> None:
        if module in way:
            found.append([*way[way.index(module) :], module])
        elif module not in done:
            for other in sorted(imports.get(module, ())):
                visit(other, [*way, module])
            done.add(module)

    for module in imports:
        visit(module, [])
    return found


def modules() -> dict[str, str]:
    files = sorted((ROOT / "src").rglob("*.py"))
    return {
        ".".join(f.relative_to(ROOT / "src").with_suffix("").parts).removesuffix(
            ".__init__"
        ): f.read_text()
        for f in files
    }


class ArrowsRunDown(unittest.TestCase):
    def test_no_module_imports_upwards_and_only_ui_imports_qt(self) -> None:
        self.assertEqual(
            [b for name, source in modules().items() for b in breaches(name, source)], []
        )

    def test_no_circle(self) -> None:
        imports: dict[str, set[str]] = {}
        for name, source in modules().items():
            froms = [n for n in ast.walk(ast.parse(source)) if isinstance(n, ast.ImportFrom)]
            imports[name] = {n.module for n in froms if n.module and n.module.startswith("draxet.")}
        self.assertEqual(circles(imports), [])

    def test_planted_breaches_are_found(self) -> None:
        self.assertTrue(breaches("draxet.geometry.spans", "from draxet.job.records import Job"))
        self.assertTrue(breaches("draxet.trace.edges", "from draxet.mend.nodes import move_node"))
        self.assertTrue(breaches("draxet.trace.edges", "from PyQt6.QtGui import QImage"))
        for module, name in (
            ("model.session", "canvas.view"),
            ("canvas.view", "shell.window"),
            ("model.document", "model.selection"),
            ("model.desk", "model.session"),
            ("controls.fields", "canvas.view"),
            ("stages.row", "shell.opening"),
            ("stages.mend.trim_tool", "stages.trace.walk_tool"),
        ):
            source = f"from draxet.ui.{name} import anything"
            self.assertTrue(breaches(f"draxet.ui.{module}", source), (module, name))
        fine = "from draxet.ui.stages.slip import Slip"
        self.assertEqual(breaches("draxet.ui.stages.mend.trim_tool", fine), [])
        self.assertTrue(circles({"a": {"b"}, "b": {"c"}, "c": {"a"}}))


def kinds_asked(module: str, source: str) -> list[str]:
    """Where a module outside their folder asks a machine for its kind by name."""
    if module.startswith("draxet.job.machine_kinds"):
        return []
    keys = {"laser", "router", "plasma", "pen", "saw"}
    found = []
    for node in ast.walk(ast.parse(source)):
        if isinstance(node, ast.Constant) and node.value in keys - {"pen"}:
            found.append(f"{module}, line {node.lineno}: {node.value}")  # a pen is an icon as well
        if isinstance(node, ast.Compare | ast.Subscript) and re.search(
            r"machine\w*(\(.*\))?\.kind\b", ast.unparse(node)
        ):
            found.append(f"{module}, line {node.lineno}: {ast.unparse(node)}")
    return found


def operations_asked(module: str, source: str) -> list[str]:
    """Where a module outside their folder asks an operation whether it is of a kind."""
    if module.startswith("draxet.job.operations"):
        return []
    kinds = {"CutThrough", "Score", "Engrave", "Pocket", "Drill", "Draw"}
    found = []
    for node in ast.walk(ast.parse(source)):
        is_asked = (
            isinstance(node, ast.Call) and ast.unparse(node.func) in ("isinstance", "issubclass")
        ) or isinstance(node, ast.MatchClass)
        if is_asked and kinds & {n.id for n in ast.walk(node) if isinstance(n, ast.Name)}:
            found.append(f"{module}, line {node.lineno}")
    return found


class KindsStayInTheirFolder(unittest.TestCase):
    def test_nobody_asks_an_operation_for_its_kind_by_name(self) -> None:
        self.assertEqual(
            [b for name, source in modules().items() for b in operations_asked(name, source)], []
        )
        for asked in (
            "if isinstance(each, CutThrough) and each.spots: pass",
            "x = isinstance(each, (Draw, Score))",
            "match each:\n    case Engrave(way='lines'): pass",
        ):
            self.assertTrue(operations_asked("draxet.make.leads", asked), asked)

    def test_nobody_asks_a_machine_for_its_kind_by_name(self) -> None:
        self.assertEqual(
            [each for name, source in modules().items() for each in kinds_asked(name, source)], []
        )

    def test_planted_questions_are_found(self) -> None:
        for asked in (
            "if machine.kind == PEN.key: pass",
            "words = WORDS[run.machine.kind]",
            "if kind in ('laser', other): pass",
            "draws = job.machine_of(sheet).kind != 'pen'",
        ):
            self.assertTrue(kinds_asked("draxet.make.leads", asked), asked)


def names_twice(files: Iterable[Path]) -> list[str]:
    """Names that more than one module has, but for those of packages."""
    counts = Counter(file.stem for file in files)
    return [name for name, count in counts.items() if count > 1 and not name.startswith("__")]


class NamesTell(unittest.TestCase):
    def test_no_two_modules_share_a_name(self) -> None:
        self.assertEqual(names_twice((ROOT / "src").rglob("*.py")), [])
        self.assertEqual(names_twice([Path("mend/clean.py"), Path("ui/clean.py")]), ["clean"])


class StartsLight(unittest.TestCase):
    def test_an_empty_window_stands_without_the_slow_libraries(self) -> None:
        code = (
            "from draxet.slow import is_loaded, load_when_used; load_when_used(); from draxet.ui.app import make_app; from draxet.ui.shell.window import Window;"
            "app = make_app(); window = Window(); window.show(); window.repaint(); print([name for name in ('numpy', 'cv2', 'shapely') if is_loaded(name)]);"
            "window.workers.close()"
        )
        run = subprocess.run(
            [sys.executable, "-c", code],
            env={**os.environ, "PYTHONPATH": str(ROOT / "src"), "QT_QPA_PLATFORM": "offscreen"},
            capture_output=True,
            text=True,
        )
        self.assertEqual(run.stdout.strip(), "[]", run.stderr)


class DocumentsHold(unittest.TestCase):
    def test_links_lead_to_files_and_headings(self) -> None:
        for document in [ROOT / "README.md", *(ROOT / "docs").rglob("*.md")]:
            for link in re.findall(r"\]\(([^)#:]+)(?:#[^)]*)?\)", document.read_text()):
                with self.subTest(document=document.name, link=link):
                    self.assertTrue((document.parent / link).exists())

    def test_no_text_names_a_path_of_a_developers_machine(self) -> None:
        for name, source in modules().items():
            with self.subTest(name):
                self.assertNotRegex(source, r"/(work|root|home)/")
