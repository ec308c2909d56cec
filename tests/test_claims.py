"""What the guide and the README claim is shown by something that is there (``docs/claims.md``)."""

import re
import unittest
from pathlib import Path

HOME = Path(__file__).parents[1]
CLAIM = re.compile(
    r"- “(.+)” (?:(?P<module>[a-z_.]+): (?P<tests>[a-z0-9_, ]+)|bench (?P<bench>[a-z ]+)|(?P<seen>seen))"
)
LEAST_BY_TESTS = 60


def flat(text: str) -> str:
    return " ".join(text.split())


def what_is_wrong(claims: str, told: str) -> list[str]:
    """Claims that are told nowhere, and what is named that is not there."""
    wrong = []
    for line in (line for line in claims.splitlines() if line.startswith("- ")):
        found = CLAIM.fullmatch(line)
        if found is None:
            wrong.append(f"no claim: {line}")
            continue
        if flat(found[1]) not in told:
            wrong.append(f"told nowhere: {found[1]}")
        if found["module"]:
            module = HOME / "tests" / f"{found['module'].replace('.', '/')}.py"
            text = module.read_text() if module.is_file() else ""
            wrong += [
                f"no test: {found['module']} {name}"
                for name in found["tests"].split(", ")
                if f"def test_{name}(" not in text
            ]
        elif (
            found["bench"]
            and f'"{found["bench"]}": ' not in (HOME / "bench" / "run.py").read_text()
        ):
            wrong.append(f"no bench: {found['bench']}")
    return wrong


class Claims(unittest.TestCase):
    def setUp(self) -> None:
        self.claims = (HOME / "docs" / "claims.md").read_text()
        self.told = flat(
            (HOME / "docs" / "guide.md").read_text() + (HOME / "README.md").read_text()
        )

    def test_each_stands_in_the_guide_and_is_shown_by_what_there_is(self) -> None:
        self.assertEqual(what_is_wrong(self.claims, self.told), [])

    def test_enough_of_them_are_shown_by_tests(self) -> None:
        self.assertGreater(
            sum(bool(found["module"]) for found in CLAIM.finditer(self.claims)), LEAST_BY_TESTS
        )

    def test_what_is_not_so_is_found(self) -> None:
        for line in (
            "- “Pigs fly.” seen",
            "- “Files of older versions open” job.test_files: no_such_test",
            "- “Files of older versions open” bench nothing",
            "- Files open: seen",
        ):
            self.assertEqual(len(what_is_wrong(line, self.told)), 1, line)
