import unittest

import numpy as np

from draxet.geometry.arrays import columns, crosses, dots, frozen, kept, norms, put, ranges, rows


class Vectors(unittest.TestCase):
    def setUp(self) -> None:
        rng = np.random.default_rng(3)
        self.a, self.b = rng.normal(size=(50, 2)), rng.normal(size=(50, 2))

    def test_sums_over_vectors_are_those_of_numpy(self) -> None:
        np.testing.assert_allclose(dots(self.a, self.b), (self.a * self.b).sum(axis=1))
        np.testing.assert_allclose(norms(self.a), np.hypot(*self.a.T))
        angle = np.arctan2(*self.b.T[::-1]) - np.arctan2(*self.a.T[::-1])
        np.testing.assert_allclose(
            crosses(self.a, self.b), norms(self.a) * norms(self.b) * np.sin(angle)
        )

    def test_they_work_on_tables_of_any_shape(self) -> None:
        table = self.a.reshape(5, 10, 2)
        self.assertEqual(dots(table, self.b.reshape(5, 10, 2)).shape, (5, 10))
        np.testing.assert_allclose(crosses(table, table), 0)

    def test_rows_columns_and_flags_pick_and_put_as_an_index_does(self) -> None:
        index = np.array([[3, 3], [0, 49]])
        np.testing.assert_array_equal(rows(self.a, index), self.a[index])
        np.testing.assert_array_equal(columns(*self.a.T), self.a)
        flags = self.a[:, 0] > 0
        np.testing.assert_array_equal(kept(self.a, flags), self.a[flags])
        other, wanted = self.a.copy(), self.a.copy()
        put(other, flags, self.b[flags])
        wanted[flags] = self.b[flags]
        np.testing.assert_array_equal(other, wanted)

    def test_ranges_are_laid_end_to_end(self) -> None:
        index, owner = ranges(np.array([5, 0, 7]), np.array([2, 0, 3]))
        self.assertEqual((index.tolist(), owner.tolist()), ([5, 6, 7, 8, 9], [0, 0, 2, 2, 2]))

    def test_frozen_arrays_cannot_be_written_and_the_callers_own_still_can(self) -> None:
        still = frozen(self.a)
        with self.assertRaises(ValueError):
            still[0, 0] = 1.0
        self.a[0, 0] = 1.0


if __name__ == "__main__":
    unittest.main()
