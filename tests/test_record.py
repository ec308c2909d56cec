"""Records are made when first used, whoever uses them first and from wherever."""

import copy
import dataclasses
import pickle
import threading
import unittest
from dataclasses import field, replace

from draxet.record import record


@record(frozen=True)
class Plank:
    wide: float
    high: float = 3.0
    marks: tuple[str, ...] = field(default=())
    notes: list[str] = field(default_factory=list, compare=False)


def fresh(**how: bool) -> type:
    """A kind of record that nobody has used yet."""

    class Board:
        wide: float
        marks: tuple[str, ...] = field(default=("a",))
        notes: list[str] = field(default_factory=list)

        def __post_init__(self) -> None:
            if self.wide <= 0:
                raise ValueError("a board has a width")

    Board.__annotations__ = {"wide": "float", "marks": "tuple[str, ...]", "notes": "list[str]"}
    return record(Board, **how)  # type: ignore[call-overload, no-any-return]


def plain_class() -> type:
    """A class whose fields are no more than names with values."""

    class Bar:
        wide: float
        high: float = 3.0

        def __post_init__(self) -> None:
            if self.wide <= 0:
                raise ValueError("a bar has a width")

    Bar.__annotations__ = {"wide": "float", "high": "float"}
    return Bar


def bare(**how: bool) -> type:
    """A kind of record made of it, that nobody has used yet."""
    return record(plain_class(), **how)  # type: ignore[call-overload, no-any-return]


def is_made(kind: type) -> bool:
    return isinstance(vars(kind)["__dataclass_fields__"], dict)


class RecordTest(unittest.TestCase):
    def test_the_first_few_records_are_put_together_without_it(self) -> None:
        kind = bare(frozen=True)
        some = [kind(1.0), kind(high=2.0, wide=1.0), kind(1.0, 2.0)]
        self.assertFalse(is_made(kind))
        self.assertEqual(
            [vars(each) for each in some],
            [{"wide": 1.0, "high": 3.0}, {"wide": 1.0, "high": 2.0}, {"wide": 1.0, "high": 2.0}],
        )
        self.assertRaises(ValueError, kind, -1.0)
        self.assertFalse(is_made(kind))
        more = [kind(float(k)) for k in range(1, 1000)]
        self.assertTrue(is_made(kind))
        self.assertEqual([each.wide for each in more], list(range(1, 1000)))
        self.assertEqual(some[1:], [kind(1.0, 2.0)] * 2)

    def test_what_a_dataclass_does_has_it_made(self) -> None:
        whole = dataclasses.dataclass(frozen=True)(plain_class())
        for use in (
            repr,
            hash,
            lambda one: one == one,
            lambda one: replace(one, high=1.0),
            dataclasses.fields,
            lambda one: {one: 1},
        ):
            kind = bare(frozen=True)
            one = kind(2.0)
            self.assertFalse(is_made(kind))
            use(one)
            self.assertTrue(is_made(kind))
            self.assertEqual(
                (repr(one), hash(one), one), (repr(whole(2.0)), hash(whole(2.0)), kind(2.0))
            )
        for wrong in (
            lambda kind: setattr(kind(1.0), "wide", 3.0),
            lambda kind: delattr(kind(1.0), "wide"),
        ):
            self.assertRaises(dataclasses.FrozenInstanceError, wrong, bare(frozen=True))
        for given, named in (((), {}), ((1, 2, 3), {}), ((1,), {"wide": 2}), ((1,), {"deep": 2})):
            self.assertRaises(TypeError, bare(frozen=True), *given, **named)
        free = bare()(1.0)
        free.wide = 5.0
        self.assertEqual(free.wide, 5.0)
        self.assertRaises(TypeError, hash, bare()(1.0))

    def test_it_is_made_where_a_field_is_more_than_a_name_with_a_value(self) -> None:
        kind = fresh(frozen=True)
        self.assertFalse(is_made(kind))
        self.assertEqual(kind(2.0), kind(wide=2.0))
        self.assertTrue(is_made(kind))
        self.assertEqual(kind.marks, ("a",))  # type: ignore[attr-defined]
        self.assertFalse(hasattr(kind, "notes"))
        self.assertRaises(dataclasses.FrozenInstanceError, setattr, kind(2.0), "wide", 3.0)
        self.assertRaises(ValueError, kind, -1.0)
        self.assertRaises(TypeError, kind)

    def test_it_is_made_by_asking_for_its_fields(self) -> None:
        for ask in (dataclasses.fields, dataclasses.is_dataclass):
            kind = fresh(eq=False)
            self.assertTrue(ask(kind))
            self.assertTrue(is_made(kind))
            self.assertNotEqual(kind(1.0), kind(1.0))

    def test_one_kind_built_on_another_has_the_fields_of_both(self) -> None:
        base = fresh(frozen=True)

        class Thick(base):  # type: ignore[misc, valid-type]
            thick: float = 4.0

        Thick.__annotations__ = {"thick": "float"}
        kind = record(Thick, frozen=True)  # type: ignore[call-overload]
        self.assertEqual(kind(1.0, thick=5.0).thick, 5.0)
        self.assertEqual(
            [each.name for each in dataclasses.fields(kind)], ["wide", "marks", "notes", "thick"]
        )

    def test_records_are_copied_changed_and_kept(self) -> None:
        plank = Plank(1.0, notes=["new"])
        self.assertEqual(pickle.loads(pickle.dumps(plank)), plank)
        self.assertEqual(copy.deepcopy(plank), plank)
        self.assertEqual(replace(plank, wide=2.0), Plank(2.0))
        self.assertEqual(hash(plank), hash(Plank(1.0)))

    def test_one_that_comes_from_a_file_first_is_whole(self) -> None:
        kind = fresh(frozen=True)
        one = kind.__new__(kind)
        one.__setstate__({"wide": 2.0, "marks": ("a",), "notes": []})
        self.assertEqual(one, kind(2.0))

    def test_many_threads_may_be_first(self) -> None:
        for _ in range(20):
            kind, made, start = fresh(frozen=True), [], threading.Barrier(8)

            def one(
                kind: type = kind, made: list[object] = made, start: threading.Barrier = start
            ) -> None:
                start.wait()
                made.append(kind(1.0))

            threads = [threading.Thread(target=one) for _ in range(8)]
            for each in threads:
                each.start()
            for each in threads:
                each.join()
            self.assertEqual(made, [kind(1.0)] * 8)


if __name__ == "__main__":
    unittest.main()
