import io
import threading
import unittest

import numpy as np
from PIL import Image

from draxet.gather.load import PictureError, count_pages, peek, read_picture, thumbnails
from draxet.gather.place import arrival
from draxet.job.sheet_records import Sheet
from draxet.pixels.grey_levels import grey_of


def encoded(image: Image.Image, kind: str, **more: object) -> bytes:
    stream = io.BytesIO()
    image.save(stream, kind, **more)
    return stream.getvalue()


def ramp(mode: str = "L", size: tuple[int, int] = (40, 30)) -> Image.Image:
    return Image.fromarray(
        np.tile(np.linspace(0, 255, size[0]).astype(np.uint8), (size[1], 1))
    ).convert(mode)


class EveryKindOpens(unittest.TestCase):
    def test_with_its_size_and_brightness(self) -> None:
        cases = [
            ("PNG", "RGB"),
            ("JPEG", "L"),
            ("JPEG", "CMYK"),
            ("TIFF", "1"),
            ("TIFF", "L"),
            ("BMP", "RGB"),
            ("GIF", "P"),
            ("WEBP", "RGB"),
            ("PNG", "I;16"),
            ("PNG", "LA"),
        ]
        for kind, mode in cases:
            with self.subTest(kind=kind, mode=mode):
                image = (
                    Image.fromarray((np.asarray(ramp()).astype(np.uint16) * 257))
                    if mode == "I;16"
                    else ramp(mode)
                )
                loaded = read_picture(encoded(image, kind), "ramp")
                self.assertEqual(loaded.size, (40, 30))
                grey = grey_of(loaded.pixels)
                self.assertEqual(grey.dtype, np.uint8)
                self.assertLess(abs(int(grey[:, :4].mean()) - 10), 30)
                self.assertGreater(grey[:, -4:].mean(), 220)

    def test_what_is_clear_counts_as_paper(self) -> None:
        image = Image.new("RGBA", (8, 8), (0, 0, 0, 0))
        self.assertEqual(grey_of(read_picture(encoded(image, "PNG"), "clear").pixels).min(), 255)

    def test_the_orientation_tag_is_obeyed(self) -> None:
        exif = Image.Exif()
        exif[0x0112] = 6  # the camera was held upright: turn a quarter
        loaded = read_picture(encoded(ramp(), "JPEG", exif=exif), "phone")
        self.assertEqual(loaded.size, (30, 40))
        self.assertLess(grey_of(loaded.pixels)[:4].mean(), grey_of(loaded.pixels)[-4:].mean())

    def test_resolution_is_read_and_nonsense_is_not(self) -> None:
        self.assertAlmostEqual(
            read_picture(encoded(ramp(), "PNG", dpi=(300, 300)), "x").dpi or 0, 300, 0
        )
        self.assertIsNone(read_picture(encoded(ramp(), "PNG", dpi=(1, 1)), "x").dpi)
        self.assertIsNone(read_picture(encoded(ramp(), "PNG"), "x").dpi)
        for tag, dpi in ((0x829A, None), (0x9003, 300)):  # through a lens, and of some date
            exif = Image.Exif()
            exif.get_ifd(0x8769)[tag] = 0.01 if dpi is None else "2026:01:01 10:00:00"
            data = encoded(ramp(), "JPEG", exif=exif, dpi=(300, 300))
            self.assertEqual(read_picture(data, "x.jpg").dpi, dpi)

    def test_an_animated_picture_gives_its_first_frame_and_says_so(self) -> None:
        data = encoded(ramp(), "GIF", save_all=True, append_images=[ramp().rotate(180)])
        self.assertIn(
            "several frames; the first one is used", " ".join(read_picture(data, "many").remarks)
        )

    def test_more_pages_than_can_be_chosen_from_are_refused_before_they_are_counted(self) -> None:
        page = ramp().resize((4, 4))
        few = encoded(page, "TIFF", save_all=True, append_images=[page] * 999)
        self.assertEqual(count_pages(few, "few"), 1000)
        many = encoded(page, "TIFF", save_all=True, append_images=[page] * 1000)
        for read in (count_pages, read_picture, thumbnails, peek):
            with self.subTest(read.__name__), self.assertRaisesRegex(PictureError, "1,000 pages"):
                read(many, "many")

    def test_the_page_asked_for_is_read_and_all_have_thumbnails(self) -> None:
        other = ramp().rotate(180)
        for kind in ("TIFF", "PDF"):
            data = encoded(ramp(), kind, save_all=True, append_images=[other])
            with self.subTest(kind):
                self.assertEqual((count_pages(data, "many"), len(thumbnails(data, "many"))), (2, 2))
                first, second = (
                    grey_of(read_picture(data, "many", page).pixels) for page in (0, 1)
                )
                self.assertLess(first[:, :4].mean(), 60)
                self.assertGreater(second[:, :4].mean(), 190)
        self.assertEqual(count_pages(encoded(ramp(), "PNG"), "one"), 1)

    def test_a_pdf_page_keeps_its_size_on_paper(self) -> None:
        loaded = read_picture(encoded(ramp("RGB", (720, 360)), "PDF", resolution=72.0), "plan.pdf")
        self.assertAlmostEqual(loaded.size[0] / (loaded.dpi or 0), 10.0, 1)

    def test_phone_formats(self) -> None:
        import pillow_heif

        pillow_heif.register_heif_opener()
        loaded = read_picture(encoded(ramp("RGB", (64, 48)), "HEIF", quality=90), "phone.heic")
        self.assertEqual(loaded.size, (64, 48))


class BadFilesGetOneSentence(unittest.TestCase):
    def test_table(self) -> None:
        png = encoded(ramp("RGB", (400, 300)), "PNG")
        huge = encoded(Image.new("1", (30000, 20000)), "PNG")
        bomb = encoded(Image.new("1", (30000, 27000)), "TIFF", compression="group4")
        self.assertLess(len(bomb), 100_000)
        cases = {
            "empty": (b"", "is empty"),
            "text": (b"just words", "is no picture that Draxet reads"),
            "zip": (b"PK\x03\x04" + b"\0" * 50, "is no picture"),
            "cut short": (png[: len(png) // 2], "damaged or cut short"),
            "jpeg cut short": (
                encoded(ramp("RGB", (400, 300)), "JPEG")[:900],
                "damaged or cut short",
            ),
            "pdf cut short": (encoded(ramp("RGB"), "PDF")[:60], "locked with a password, damaged"),
            "one pixel": (encoded(Image.new("L", (1, 1)), "PNG"), "at least 2 × 2"),
            "absurdly large": (huge, "600 megapixels; the largest picture is 400"),
            "a bomb of a tiff": (bomb, "too large; the largest picture is 400"),
            "words behind a picture's ending": (b"GIF89a", "damaged or cut short|is no picture"),
            "a locked pdf": (b"%PDF-1.4 locked", "locked with a password, damaged"),
            "header only": (png[:20], "damaged or cut short|is no picture"),
        }
        for what, (data, words) in cases.items():
            with self.subTest(what):
                with self.assertRaisesRegex(PictureError, words) as caught:
                    read_picture(data, "thing.png")
                self.assertTrue(str(caught.exception).startswith("thing.png "))
                self.assertNotIn("\n", str(caught.exception))


class StrangeFilesThatAreSound(unittest.TestCase):
    def grey(self, data: bytes, name: str = "thing") -> np.ndarray:
        return grey_of(read_picture(data, name).pixels)

    def test_colours_for_print_deep_greys_and_palettes_with_clear_parts(self) -> None:
        print_ink = Image.new("CMYK", (9, 7), (0, 0, 0, 255))
        self.assertLess(self.grey(encoded(print_ink, "TIFF")).max(), 40)
        deep = np.array([[0, 16384], [32768, 65535]], dtype=np.uint16)
        np.testing.assert_array_equal(
            self.grey(encoded(Image.fromarray(deep), "TIFF")), [[0, 64], [128, 255]]
        )
        palette = Image.new("P", (4, 2), 0)
        palette.putpalette([0, 0, 0, 250, 10, 10])
        palette.putpixel((3, 1), 1)
        grey = self.grey(encoded(palette, "PNG", transparency=0))
        self.assertEqual((int(grey[0, 0]), grey[1, 3] < 100), (255, True))

    def test_a_wrong_ending_and_a_very_wide_picture(self) -> None:
        self.assertEqual(read_picture(encoded(ramp(), "PNG"), "really.jpg").size, (40, 30))
        wide = read_picture(encoded(Image.new("L", (65000, 3), 7), "PNG"), "banner.png")
        self.assertEqual((wide.size, int(wide.pixels.max())), ((65000, 3), 7))

    def test_at_a_glance_it_is_the_same_picture_small(self) -> None:
        exif = Image.Exif()
        exif[0x0112] = 6
        found = peek(encoded(ramp("L", (800, 600)), "JPEG", exif=exif, dpi=(300, 300)), "phone.jpg")
        self.assertEqual((found.width, found.height, found.pages), (600, 800, 1))
        self.assertEqual(found.small.shape[0], 220)
        self.assertLess(found.small[:20].mean(), found.small[-20:].mean())
        many = encoded(ramp(), "PDF", save_all=True, append_images=[ramp()])
        self.assertEqual(peek(many, "plan.pdf").pages, 2)


class PicturesArrive(unittest.TestCase):
    def test_at_the_size_their_dpi_says_in_the_sheets_middle(self) -> None:
        to_job = arrival((600, 300), 300.0, Sheet(width=200, height=100))
        np.testing.assert_allclose(to_job.point(0, 300), (100 - 25.4, 50 - 12.7))
        np.testing.assert_allclose(to_job.point(600, 0), (100 + 25.4, 50 + 12.7))

    def test_fitted_to_the_sheet_where_none_is_stated(self) -> None:
        to_job = arrival((1000, 100), None, Sheet(width=200, height=100))
        (x0, y0), (x1, y1) = to_job.point(0, 100), to_job.point(1000, 0)
        self.assertAlmostEqual(x1 - x0, 180)
        self.assertTrue(x0 >= 0 and y0 >= 0 and x1 <= 200 and y1 <= 100)


class PdfsFromTwoThreads(unittest.TestCase):
    def test_all_are_read(self) -> None:
        data, errors = encoded(ramp("RGB"), "PDF"), []

        def read() -> None:
            for _ in range(15):
                try:
                    read_picture(data, "a.pdf")
                    thumbnails(data, "a.pdf")
                except Exception as error:
                    errors.append(error)

        threads = [threading.Thread(target=read) for _ in range(2)]
        for thread in threads:
            thread.start()
        for thread in threads:
            thread.join()
        self.assertEqual(errors, [])

    def test_pictures_arrive_on_the_sheet_in_hand(self) -> None:
        placed = arrival((100, 50), None, Sheet(x=700, y=10, width=200, height=100))
        self.assertEqual(placed.point(50, 25), (800, 60))
