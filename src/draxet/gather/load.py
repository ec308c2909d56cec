"""Picture files become pixels, or one sentence that says why not.

A *picture file* is kept as it came; its pixels are read from it whenever they are needed, upright
and without transparency.
"""

from __future__ import annotations

import io
import threading
import warnings
from collections.abc import Iterator
from contextlib import contextmanager
from typing import TYPE_CHECKING, Any

import numpy as np

from draxet.geometry.arrays import NDArray
from draxet.record import record

if TYPE_CHECKING:
    from PIL import Image

__all__ = [
    "ENDINGS",
    "LoadedPicture",
    "Peek",
    "PictureError",
    "count_pages",
    "may_take_long",
    "pages_or_picture",
    "peek",
    "read_picture",
    "thumbnails",
]

ENDINGS = ("png", "jpg", "jpeg", "tif", "tiff", "bmp", "gif", "webp", "heic", "heif", "pdf")
_KINDS = ("PNG", "JPEG", "TIFF", "BMP", "GIF", "WEBP", "HEIF")
_NAMES = "PNG, JPEG, TIFF, BMP, GIF, WebP, HEIC or PDF"
_PDF_DPI = 300.0
_PDF_PIXELS = 80_000_000
_MOST_THUMBNAILS = 200
_MOST_PAGES = 1000
_LARGEST = 400_000_000
_LONGEST_SIDE = 100_000
_BAND_PIXELS = 16_000_000
_ORIENTATION, _EXIF = 0x0112, 0x8769
_OF_A_LENS = (0x829A, 0x829D, 0x920A)
"""Exposure, aperture and focal length."""
_READABLE_DPI = (20.0, 4800.0)
_ONE_AT_A_TIME = threading.RLock()
"""PDFium keeps its state for the whole process and must not be called from two threads."""


class PictureError(ValueError):
    """A file that cannot be used as a picture; the message is one sentence for people."""


@record(frozen=True, eq=False)
class LoadedPicture:
    """`pixels` (rows, columns) grey or (rows, columns, 3) red, green, blue of uint8; `dpi` where
    the file tells; `remarks` for people."""

    pixels: NDArray[Any]
    dpi: float | None
    remarks: tuple[str, ...] = ()

    @property
    def size(self) -> tuple[int, int]:
        """Width and height in pixels."""
        return self.pixels.shape[1], self.pixels.shape[0]


def read_picture(data: bytes, name: str, page: int = 0) -> LoadedPicture:
    """Read a picture file, of several pages the one numbered `page` from 0.

    Raises
    ------
    PictureError : where it is empty, no picture of a known kind, cut short, damaged or over 400
    megapixels.
    """
    if not data:
        raise PictureError(f"{name} is empty; choose a file that holds a picture")
    if _is_pdf(data):
        with _pdf(data, name) as document:
            return _read_pdf(document, name, page)
    with _opened(data, name) as image:
        return _read(image, name, page)


def count_pages(data: bytes, name: str) -> int:
    """How many pages a TIFF or PDF has; 1 for everything else. PictureError as in
    ``read_picture``, and where there are over 1,000 in a TIFF."""
    if not data:
        raise PictureError(f"{name} is empty; choose a file that holds a picture")
    if _is_pdf(data):
        with _pdf(data, name) as document:
            return len(document)
    with _opened(data, name) as image:
        return _page_count(image, name)


def thumbnails(data: bytes, name: str, side: int = 150) -> list[NDArray[Any]]:
    """Small pictures of the pages, red, green, blue, at most `side` pixels wide and high, of the
    first 200."""
    if _is_pdf(data):
        with _pdf(data, name) as document:
            return [
                _rendered(document[k], side / max(*document[k].get_size(), 1.0))
                for k in range(min(len(document), _MOST_THUMBNAILS))
            ]
    found, looked_at = [], 0
    with _opened(data, name) as image:
        for k in range(min(_page_count(image, name), _MOST_THUMBNAILS)):
            image.seek(k)
            looked_at += image.width * image.height
            if looked_at > _LARGEST:  # enough for one look; the rest can be chosen by number
                found.append(np.full((side, side, 3), 225, dtype=np.uint8))
                continue
            small = image.convert("RGB")
            small.thumbnail((side, side))
            found.append(np.asarray(small))
    return found


def pages_or_picture(
    data: bytes, name: str, page: int | None
) -> LoadedPicture | list[NDArray[Any]]:
    """The picture of a file, or where it has several pages and none is named, small ones of
    these."""
    if page is None and count_pages(data, name) > 1:
        return thumbnails(data, name)
    return read_picture(data, name, page or 0)


def may_take_long(data: bytes) -> bool:
    """Whether nobody can stop a library that reads this: a PDF holds what it likes, a TIFF as many
    pages."""
    return _is_pdf(data) or data[:4] in (b"II*\0", b"MM\0*")


@record(frozen=True, eq=False)
class Peek:
    """A file at a glance: its size in pixels (0 for a PDF, which has none), dpi, pages, and a
    `small` picture of it."""

    width: int
    height: int
    dpi: float | None
    pages: int
    small: NDArray[Any]


def peek(data: bytes, name: str, side: int = 220) -> Peek:
    """Look at a picture file without reading all of it where its kind allows that. PictureError as
    in ``read_picture``."""
    if not data:
        raise PictureError(f"{name} is empty; choose a file that holds a picture")
    if _is_pdf(data):
        with _pdf(data, name) as document:
            return Peek(
                0,
                0,
                None,
                len(document),
                _rendered(document[0], side / max(*document[0].get_size(), 1.0)),
            )
    with _opened(data, name) as image:
        from PIL import ImageOps

        width, height = image.size
        if width * height > _LARGEST:
            raise PictureError(
                f"{name} has {width * height // 1_000_000:,} megapixels; the largest picture is {_LARGEST // 1_000_000}"
            )
        pages, dpi = _page_count(image, name), _dpi(image)
        image.draft("RGB", (2 * side, 2 * side))
        turned = image.getexif().get(_ORIENTATION, 1) in (5, 6, 7, 8)
        image.thumbnail((2 * side, 2 * side))
        small = ImageOps.exif_transpose(image)
        small.thumbnail((side, side))
        pixels = _pixels(small)
    return Peek(
        *((height, width) if turned else (width, height)), dpi, pages, np.ascontiguousarray(pixels)
    )


def _is_pdf(data: bytes) -> bool:
    return b"%PDF-" in data[:1024]


@contextmanager
def _pdf(data: bytes, name: str) -> Iterator[Any]:
    """A PDF open for reading, by one thread at a time; whatever goes wrong with it becomes a
    PictureError."""
    import pypdfium2  # slow to load

    with _ONE_AT_A_TIME:
        document = None
        try:
            document = pypdfium2.PdfDocument(data)
            if len(document) < 1:
                raise PictureError(f"{name} has no pages")
            yield document
        except PictureError:
            raise
        except Exception as error:  # the library raises its own, and what its bindings raise
            raise PictureError(
                f"{name} is locked with a password, damaged or cut short; save it again without a password"
            ) from error
        finally:
            if document is not None:
                document.close()


def _read_pdf(document: Any, name: str, page: int) -> LoadedPicture:
    """A page as a picture of 300 dpi, or less where it is very large; its size on paper is kept by
    its dpi."""
    sheet = document[min(page, len(document) - 1)]
    width, height = sheet.get_size()
    dpi = min(_PDF_DPI, float(np.sqrt(_PDF_PIXELS / max(width * height, 1e-6)) * 72))
    if min(width, height) * dpi / 72 < 2 or max(width, height) * dpi / 72 > _LONGEST_SIDE:
        raise PictureError(
            f"{name} has a page of {width / 72:.4g} × {height / 72:.4g} inches, which is no size to work with"
        )
    return LoadedPicture(_rendered(sheet, dpi / 72), dpi)


def _rendered(page: Any, scale: float) -> NDArray[Any]:
    """A PDF page as red, green and blue."""
    return np.asarray(page.render(scale=scale, rev_byteorder=True).to_numpy())[..., :3].copy()


@contextmanager
def _opened(data: bytes, name: str) -> Iterator[Image.Image]:
    """A picture file open for reading; whatever goes wrong with it becomes a PictureError."""
    import pillow_heif  # slow to load
    from PIL import Image, UnidentifiedImageError

    pillow_heif.register_heif_opener()
    Image.MAX_IMAGE_PIXELS = (
        _LARGEST  # Pillow itself would stop at 179 megapixels, below large scans
    )
    with warnings.catch_warnings():
        warnings.simplefilter("ignore")
        try:
            with Image.open(io.BytesIO(data), formats=_KINDS) as image:
                yield image
        except UnidentifiedImageError as error:
            raise PictureError(
                f"{name} is no picture that Draxet reads; it reads {_NAMES}"
            ) from error
        except Image.DecompressionBombError as error:
            raise PictureError(
                f"{name} is too large; the largest picture is {_LARGEST // 1_000_000} megapixels"
            ) from error
        except PictureError:
            raise
        except MemoryError as error:
            raise PictureError(f"{name} does not fit into the memory; save it smaller") from error
        except (
            Exception
        ) as error:  # the library and its plug-ins raise whatever their decoders raise
            raise PictureError(
                f"{name} is damaged or cut short; copy it again from where it came"
            ) from error


def _page_count(image: Image.Image, name: str) -> int:
    """How many pages a picture has: more than can be chosen from are not counted, since each is
    looked for from the first."""
    if image.format != "TIFF":
        return 1
    pages = 1
    try:
        while pages <= _MOST_PAGES:
            image.seek(pages)
            pages += 1
    except EOFError:
        image.seek(0)
        return pages
    raise PictureError(
        f"{name} has over {_MOST_PAGES:,} pages; save the one that is wanted by itself"
    )


def _read(image: Image.Image, name: str, page: int) -> LoadedPicture:
    from PIL import ImageOps

    width, height = image.size
    if width * height > _LARGEST:
        raise PictureError(
            f"{name} has {width * height // 1_000_000:,} megapixels; the largest picture is {_LARGEST // 1_000_000}"
        )
    if min(width, height) < 2:
        raise PictureError(f"{name} is {width} × {height} pixels; at least 2 × 2 are needed")
    remarks = []
    if (pages := _page_count(image, name)) > 1:
        image.seek(min(page, pages - 1))
    elif image.format != "TIFF" and getattr(image, "is_animated", False):
        remarks.append(f"{name} has several frames; the first one is used")
    dpi = _dpi(image)
    image.load()
    upright = ImageOps.exif_transpose(image) if image.getexif().get(_ORIENTATION, 1) != 1 else image
    return LoadedPicture(_pixels(upright), dpi, tuple(remarks))


def _dpi(image: Image.Image) -> float | None:
    """How many pixels an inch has; None where nobody knows, as of what a camera took: that says
    nothing of the thing."""
    if any(tag in image.getexif().get_ifd(_EXIF) for tag in _OF_A_LENS):
        return None
    try:
        dpi = float(image.info["dpi"][0])
    except (KeyError, TypeError, ValueError, IndexError, ZeroDivisionError):
        return None
    return dpi if _READABLE_DPI[0] <= dpi <= _READABLE_DPI[1] else None


def _pixels(image: Image.Image) -> NDArray[Any]:
    """A picture's pixels, 8 bits each and without transparency; what takes several copies on the
    way is done in bands of rows."""
    width, height = image.size
    plain = image.mode in ("1", "L", "RGB") and "transparency" not in image.info
    if plain or width * height <= _BAND_PIXELS:
        return _converted(image, _brightest(image))
    rows = max(1, _BAND_PIXELS // width)
    brightest, bands = _brightest(image), range(0, height, rows)
    first = _converted(image.crop((0, 0, width, min(rows, height))), brightest)
    out = np.empty((height, *first.shape[1:]), dtype=np.uint8)
    for top in bands:
        band = image.crop((0, top, width, min(top + rows, height)))
        if "transparency" in image.info:
            band.info["transparency"] = image.info["transparency"]
        out[top : top + rows] = _converted(band, brightest)
    return out


def _brightest(image: Image.Image) -> float:
    """What counts as white where a picture has more than 8 bits."""
    if image.mode != "F":
        return 65535.0
    values = np.asarray(image)
    return max(float(values[np.isfinite(values)].max(initial=0.0)), 1e-9)


def _converted(image: Image.Image, brightest: float) -> NDArray[Any]:
    from PIL import Image

    if image.mode in ("I;16", "I;16B", "I;16L", "I;16N", "I", "F"):
        values = np.asarray(image).astype(np.float32)
        return np.asarray(
            np.clip(np.nan_to_num(values) * (255.0 / brightest) + 0.5, 0, 255).astype(np.uint8)
        )
    if image.mode in ("RGBA", "LA", "PA") or "transparency" in image.info:
        clear = image.convert("RGBA")
        paper = Image.new("RGBA", clear.size, (255, 255, 255, 255))
        image = Image.alpha_composite(paper, clear).convert("RGB")
    if image.mode in ("1", "L"):
        return np.asarray(image if image.mode == "L" else image.convert("L"))
    return np.asarray(image if image.mode == "RGB" else image.convert("RGB"))
