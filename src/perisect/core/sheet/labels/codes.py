"""Codes that scanners read: QR by segno (ISO 18004), EAN-13 (ISO 15420) and Code 128 (ISO 15417)."""

from dataclasses import dataclass
from functools import lru_cache

import numpy as np
import segno
from numpy.typing import NDArray

from perisect.core.sheet.labels.recipe import CodeBox, CodeKind

LEAST_MODULE_MM = {"qr": 0.38, "ean13": 0.26, "code128": 0.19}
"""The smallest module that a hand scanner or a phone reads from a desk printer's sheet."""
MASK = 3
"""Any mask is right; trying all eight for the best would take twenty times as long."""
QUIET = {"qr": 4, "ean13": 11, "code128": 10}
"""Bare modules on each side, by the standards."""


@dataclass(frozen=True)
class Code:
    """(rows, columns) of dark modules, quiet zone included, and the size of a module; `problem` when a scanner
    would not read it or the text is not of its kind."""

    modules: NDArray[np.bool_]
    module_mm: float
    problem: str | None = None


def code_of(text: str, box: CodeBox, width_mm: float, height_mm: float) -> Code:
    """A code as large as its box lets it be."""
    try:
        bare = _modules(box.kind, text)
    except (ValueError, segno.DataOverflowError) as error:
        return Code(np.zeros((1, 1), bool), 0.0, str(error))
    quiet = QUIET[box.kind]
    modules = np.pad(bare, quiet if box.kind == "qr" else ((0, 0), (quiet, quiet)))
    side = min(width_mm, height_mm) if box.kind == "qr" else width_mm
    module = side / modules.shape[1]
    least = LEAST_MODULE_MM[box.kind]
    problem = None
    if module < least:
        wide = least / module * side
        problem = f"its modules are {module:.2f} mm and a scanner needs {least:g}: make its box {wide:.0f} mm"
    return Code(modules, module, problem)


@lru_cache(maxsize=4096)
def _modules(kind: CodeKind, text: str) -> NDArray[np.bool_]:
    match kind:
        case "qr":
            return _qr(text)
        case "ean13":
            return _ean13(text)
        case _:
            return _code128(text)


def _qr(text: str) -> NDArray[np.bool_]:
    if not text:
        raise ValueError("there is nothing to encode")
    # Without a word on their encoding a reader has to guess what letters beyond ASCII are, and guesses wrong.
    plain = text.isascii()
    made = segno.make_qr(
        text,
        error="m",
        boost_error=False,
        mask=MASK,
        encoding=None if plain else "utf-8",
        eci=not plain,
    )
    return np.array([list(row) for row in made.matrix], bool)


_LEFT = [
    "0001101",
    "0011001",
    "0010011",
    "0111101",
    "0100011",
    "0110001",
    "0101111",
    "0111011",
    "0110111",
    "0001011",
]
_PARITY = ["LLLLLL", "LLGLGG", "LLGGLG", "LLGGGL", "LGLLGG", "LGGLLG", "LGGGLL", "LGLGLG", "LGLGGL", "LGGLGL"]


def ean13_digits(text: str) -> str:
    """Thirteen digits with a right check digit; of twelve the last is worked out.

    Raises:
        ValueError: something else.
    """
    digits = text.replace(" ", "").replace("-", "")
    if not digits.isascii() or not digits.isdigit() or len(digits) not in (12, 13):
        raise ValueError("an EAN-13 has 12 or 13 digits")
    check = -sum(int(d) * (1, 3)[n % 2] for n, d in enumerate(digits[:12])) % 10
    if len(digits) == 13 and int(digits[12]) != check:
        raise ValueError(f"the last digit of {digits} should be {check}")
    return f"{digits[:12]}{check}"


def _ean13(text: str) -> NDArray[np.bool_]:
    digits = ean13_digits(text)
    left = "".join(
        _LEFT[int(d)] if side == "L" else _right(d)[::-1]
        for d, side in zip(digits[1:7], _PARITY[int(digits[0])], strict=True)
    )
    bars = f"101{left}01010{''.join(_right(d) for d in digits[7:])}101"
    return np.array([[bar == "1" for bar in bars]], bool)


def _right(digit: str) -> str:
    return _LEFT[int(digit)].translate(str.maketrans("01", "10"))


_WIDTHS = (
    "212222 222122 222221 121223 121322 131222 122213 122312 132212 221213 221312 231212 112232 122132 122231 "
    "113222 123122 123221 223211 221132 221231 213212 223112 312131 311222 321122 321221 312212 322112 322211 "
    "212123 212321 232121 111323 131123 131321 112313 132113 132311 211313 231113 231311 112133 112331 132131 "
    "113123 113321 133121 313121 211331 231131 213113 213311 213131 311123 311321 331121 312113 312311 332111 "
    "314111 221411 431111 111224 111422 121124 121421 141122 141221 112214 112412 122114 122411 142112 142211 "
    "241211 221114 413111 241112 134111 111242 121142 121241 114212 124112 124211 411212 421112 421211 212141 "
    "214121 412121 111143 111341 131141 114113 114311 411113 411311 113141 114131 311141 411131 211412 211214 "
    "211232 "
).split()
_START_B, _START_C, _STOP = 104, 105, "2331112"


def _code128(text: str) -> NDArray[np.bool_]:
    """Set C for an even number of digits, else set B."""
    if not text or any(not 32 <= ord(c) < 127 for c in text):
        raise ValueError("a Code 128 takes plain letters, digits and signs")
    if text.isdigit() and len(text) % 2 == 0:
        values = [_START_C, *(int(text[n : n + 2]) for n in range(0, len(text), 2))]
    else:
        values = [_START_B, *(ord(c) - 32 for c in text)]
    check = (values[0] + sum(n * value for n, value in enumerate(values[1:], start=1))) % 103
    widths = "".join(_WIDTHS[value] for value in [*values, check]) + _STOP
    return np.array([np.repeat(np.arange(len(widths)) % 2 == 0, [int(w) for w in widths])], bool)
