"""A plain drawing kept as curves, so that it prints sharp at any size."""

from collections.abc import Sequence
from dataclasses import dataclass

import svgelements as svg

Rgb = tuple[int, int, int]

CAPS = {"butt": 0, "round": 1, "square": 2}
JOINS = {"miter": 0, "round": 1, "bevel": 2}
"""Numbers of line ends and corners in PDF (ISO 32000, 8.4.3)."""


@dataclass(frozen=True)
class DrawnPath:
    """One path in px of the rendering, y down.

    `steps` are path operators of PDF (m, l, c, h) with their numbers before them; `stroke` is drawn over
    `fill` with a pen `width_px` wide.
    """

    steps: str
    fill: Rgb | None
    even_odd: bool
    stroke: Rgb | None
    width_px: float
    cap: int
    join: int
    miter: float
    dash_px: tuple[float, ...]


def drawn_paths(elements: Sequence[svg.Shape], scale: float) -> tuple[DrawnPath, ...] | None:
    """The drawing as paths, or None when it has paint that is not one solid colour.

    Args:
        scale: px of the rendering for a unit of the drawing.
    """
    paths = []
    for element in elements:
        values = element.values
        fill, stroke = (
            _colour(element.fill, values.get("fill")),
            _colour(element.stroke, values.get("stroke")),
        )
        if fill is _MIXED or stroke is _MIXED:
            return None
        width = float(element.implicit_stroke_width or 0) * scale
        dashes = str(values.get("stroke-dasharray") or "none").replace(",", " ").split()
        dash = tuple(float(d) * width / float(element.stroke_width or 1) for d in dashes if d != "none")
        paths.append(
            DrawnPath(
                steps=_steps(element, scale),
                fill=fill,  # type: ignore[arg-type]
                even_odd=values.get("fill-rule") == "evenodd",
                stroke=stroke if width > 0 else None,  # type: ignore[arg-type]
                width_px=width,
                cap=CAPS[str(values.get("stroke-linecap", "butt"))],
                join=JOINS[str(values.get("stroke-linejoin", "miter"))],
                miter=float(values.get("stroke-miterlimit", 4)),
                dash_px=dash if sum(dash) > 0 else (),
            )
        )
    return tuple(paths)


_MIXED = object()


def _colour(paint: svg.Color | None, told: object) -> object:
    if str(told or "").startswith("url("):
        return _MIXED
    if paint is None or paint.value is None:
        return None
    return (paint.red, paint.green, paint.blue) if paint.alpha == 255 else _MIXED


def _steps(element: svg.Shape, scale: float) -> str:
    path = abs(svg.Path(element))
    path.approximate_arcs_with_cubics()
    steps = []

    def point(p: svg.Point) -> str:
        return f"{p.x * scale:.3f} {p.y * scale:.3f}"

    for part in path:
        if isinstance(part, svg.Move):
            steps.append(f"{point(part.end)} m")
        elif isinstance(part, svg.Close):
            steps.append("h")
        elif isinstance(part, svg.Line):
            steps.append(f"{point(part.end)} l")
        elif isinstance(part, svg.CubicBezier):
            steps.append(f"{point(part.control1)} {point(part.control2)} {point(part.end)} c")
        elif isinstance(part, svg.QuadraticBezier):
            # The cubic with the same points: handles two thirds of the way to the one handle.
            first = part.start + (part.control - part.start) * (2 / 3)
            second = part.end + (part.control - part.end) * (2 / 3)
            steps.append(f"{point(first)} {point(second)} {point(part.end)} c")
    return " ".join(steps)
