"""Features of SVG as other programs write them, one small drawing each."""
# ruff: noqa: E501

_NS = 'xmlns="http://www.w3.org/2000/svg" xmlns:xlink="http://www.w3.org/1999/xlink"'


def drawing(body: str, attributes: str = 'viewBox="0 0 200 200"', definitions: str = "") -> str:
    return f"<svg {_NS} {attributes}>{definitions}{body}</svg>"


FEATURES = {
    "circle_mm": drawing('<circle cx="30mm" cy="30mm" r="20mm" fill="red"/>', 'width="60mm" height="60mm"'),
    "stroke_mm": drawing(
        '<circle cx="30mm" cy="30mm" r="20mm" fill="none" stroke="blue" stroke-width="10mm"/>',
        'width="60mm" height="60mm"',
    ),
    "mm_no_viewbox": drawing(
        '<rect x="10" y="10" width="100" height="60" fill="red"/>', 'width="60mm" height="40mm"'
    ),
    "only_width": drawing(
        '<rect x="10" y="10" width="100" height="60" fill="red"/>', 'width="200" viewBox="0 0 200 100"'
    ),
    "mm_in_viewbox": drawing(
        '<rect x="1mm" y="1mm" width="10mm" height="10mm" fill="red"/>',
        'width="60mm" height="60mm" viewBox="0 0 60 60"',
    ),
    "units_mixed": drawing(
        '<rect x="1cm" y="10pt" width="1in" height="5pc" fill="red"/>', 'width="300" height="200"'
    ),
    "percent": drawing('<rect x="10%" y="20%" width="50%" height="30%" fill="red"/>'),
    "percent_circle": drawing('<circle cx="50%" cy="50%" r="30%" fill="red"/>', 'viewBox="0 0 200 100"'),
    "em": drawing('<g font-size="20"><rect x="1em" y="1em" width="4em" height="3em" fill="red"/></g>'),
    "aspect_mismatch": drawing(
        '<circle cx="100" cy="100" r="90" fill="red"/>', 'width="300" height="100" viewBox="0 0 200 200"'
    ),
    "aspect_none": drawing(
        '<circle cx="100" cy="100" r="90" fill="red"/>',
        'width="300" height="100" viewBox="0 0 200 200" preserveAspectRatio="none"',
    ),
    "aspect_slice": drawing(
        '<circle cx="100" cy="100" r="90" fill="red"/>',
        'width="300" height="200" viewBox="0 0 200 200" preserveAspectRatio="xMidYMid slice"',
    ),
    "aspect_xmin": drawing(
        '<circle cx="100" cy="100" r="90" fill="red"/>',
        'width="300" height="100" viewBox="0 0 200 200" preserveAspectRatio="xMinYMin meet"',
    ),
    "extreme_mismatch": drawing(
        '<circle cx="100" cy="100" r="90" fill="red"/>', 'width="100" height="1500" viewBox="0 0 200 200"'
    ),
    "viewbox_offset": drawing('<circle cx="0" cy="0" r="40" fill="red"/>', 'viewBox="-50 -50 100 100"'),
    "overflow": drawing('<circle cx="100" cy="100" r="150" fill="red"/>'),
    "css_class": drawing(
        '<style>.a{fill:#08c;stroke:#000;stroke-width:10}</style><circle class="a" cx="100" cy="100" r="80"/>'
    ),
    "css_id_child": drawing(
        '<style>#g > rect{fill:red}</style><g id="g"><rect x="20" y="20" width="100" height="100"/></g>'
    ),
    "css_geometry": drawing("<style>circle{cx:100px;cy:100px;r:60px;fill:red}</style><circle/>"),
    "css_transform": drawing(
        '<rect x="20" y="20" width="60" height="60" style="transform:rotate(30deg) translate(40px,10px)" fill="red"/>'
    ),
    "css_transform_origin": drawing(
        '<rect x="60" y="60" width="80" height="80" style="transform:rotate(45deg);transform-origin:100px 100px" fill="red"/>'
    ),
    "css_transform_box": drawing(
        '<rect x="60" y="60" width="80" height="40" style="transform:rotate(45deg);transform-box:fill-box;transform-origin:center" fill="red"/>'
    ),
    "css_clip_circle": drawing(
        '<rect x="20" y="20" width="160" height="160" fill="red" style="clip-path:circle(50px at 100px 100px)"/>'
    ),
    "css_clip_inset": drawing(
        '<rect x="20" y="20" width="160" height="160" fill="red" style="clip-path:inset(30px)"/>'
    ),
    "css_clip_polygon": drawing(
        '<rect x="20" y="20" width="160" height="160" fill="red" style="clip-path:polygon(0 0,160px 0,80px 160px)"/>'
    ),
    "css_path_d": drawing('<path style="d:path(\'M20 20H180V180Z\')" fill="red"/>'),
    "css_var": drawing('<circle cx="100" cy="100" r="80" style="fill:var(--c,red)"/>'),
    "css_opacity_0": drawing(
        '<circle cx="100" cy="100" r="80" fill="red" style="opacity:0"/><rect x="5" y="5" width="30" height="30"/>'
    ),
    "display_none": drawing(
        '<circle cx="100" cy="100" r="80" fill="red" display="none"/><rect x="5" y="5" width="30" height="30"/>'
    ),
    "visibility": drawing(
        '<g visibility="hidden"><circle cx="100" cy="100" r="80"/><rect visibility="visible" x="5" y="5" width="30" height="30"/></g>'
    ),
    "vector_effect": drawing(
        '<g transform="scale(4)"><circle cx="25" cy="25" r="15" fill="none" stroke="red" stroke-width="6" vector-effect="non-scaling-stroke"/></g>',
        'width="200" height="200" viewBox="0 0 200 200"',
    ),
    "clip_path": drawing(
        '<defs><clipPath id="c"><circle cx="100" cy="100" r="70"/></clipPath></defs><rect width="200" height="200" fill="red" clip-path="url(#c)"/>'
    ),
    "clip_bbox": drawing(
        '<defs><clipPath id="c" clipPathUnits="objectBoundingBox"><circle cx=".5" cy=".5" r=".4"/></clipPath></defs><rect x="20" y="20" width="160" height="100" fill="red" clip-path="url(#c)"/>'
    ),
    "mask": drawing(
        '<defs><mask id="m"><rect width="200" height="200" fill="white"/><circle cx="100" cy="100" r="50" fill="black"/></mask></defs><rect width="200" height="200" fill="red" mask="url(#m)"/>'
    ),
    "mask_alpha": drawing(
        '<defs><mask id="m" style="mask-type:alpha"><circle cx="100" cy="100" r="50" fill="black"/></mask></defs><rect width="200" height="200" fill="red" mask="url(#m)"/>'
    ),
    "use": drawing(
        '<defs><circle id="a" cx="50" cy="50" r="30" fill="red"/></defs><use href="#a" x="50"/><use xlink:href="#a" y="80"/>'
    ),
    "symbol": drawing(
        '<symbol id="a" viewBox="0 0 50 50"><circle cx="25" cy="25" r="25" fill="red"/></symbol><use href="#a" x="20" y="20" width="100" height="60"/>'
    ),
    "nested_svg": drawing(
        '<svg x="50" y="20" width="80" height="120" viewBox="0 0 40 40"><circle cx="20" cy="20" r="30" fill="red"/></svg>'
    ),
    "linear": drawing(
        '<linearGradient id="l"><stop stop-color="red"/><stop offset="1" stop-color="blue" stop-opacity="0.2"/></linearGradient><rect x="20" y="20" width="160" height="160" fill="url(#l)"/>'
    ),
    "radial": drawing(
        '<radialGradient id="l"><stop stop-color="red"/><stop offset="1" stop-color="blue" stop-opacity="0"/></radialGradient><rect x="20" y="20" width="160" height="160" fill="url(#l)"/>'
    ),
    "pattern": drawing(
        '<pattern id="p" width="20" height="20" patternUnits="userSpaceOnUse"><circle cx="10" cy="10" r="8" fill="red"/></pattern><rect x="20" y="20" width="160" height="160" fill="url(#p)"/>'
    ),
    "dash": drawing('<path d="M20 100H180" stroke="red" stroke-width="20" stroke-dasharray="30 10"/>'),
    "dash_percent": drawing('<path d="M20 100H180" stroke="red" stroke-width="20" stroke-dasharray="10%"/>'),
    "miter": drawing(
        '<path d="M30 150L100 40L170 150" fill="none" stroke="red" stroke-width="30" stroke-linejoin="miter"/>'
    ),
    "arcs": drawing('<path d="M30 100A70 40 30 1 1 170 100Z" fill="red"/>'),
    "evenodd": drawing('<path fill-rule="evenodd" d="M20 20H180V180H20ZM60 60H140V140H60Z" fill="red"/>'),
    "text": drawing('<text x="10" y="120" font-size="60" font-family="sans-serif">Pier</text>'),
    "text_path": drawing(
        '<defs><path id="t" d="M20 120Q100 20 180 120"/></defs><text font-size="30"><textPath href="#t">Ferry kiosk</textPath></text>'
    ),
    "tspan": drawing('<text x="10" y="60" font-size="40">A<tspan dy="40" fill="red">B</tspan></text>'),
    "blur": drawing(
        '<filter id="f"><feGaussianBlur stdDeviation="8"/></filter><circle cx="100" cy="100" r="50" fill="red" filter="url(#f)"/>'
    ),
    "drop_shadow": drawing(
        '<filter id="f"><feDropShadow dx="10" dy="10" stdDeviation="4"/></filter><circle cx="100" cy="100" r="50" fill="red" filter="url(#f)"/>'
    ),
    "css_filter": drawing('<circle cx="100" cy="100" r="50" fill="red" style="filter:blur(6px)"/>'),
    "css_drop": drawing(
        '<circle cx="100" cy="100" r="50" fill="red" style="filter:drop-shadow(10px 10px 4px black)"/>'
    ),
    "marker": drawing(
        '<marker id="m" markerWidth="6" markerHeight="6" refX="0" refY="3" orient="auto"><path d="M0 0L6 3L0 6Z"/></marker><path d="M40 100H150" stroke="red" stroke-width="6" marker-end="url(#m)"/>'
    ),
    "switch": drawing(
        '<switch><rect systemLanguage="xx" width="200" height="200"/><circle cx="100" cy="100" r="60" fill="red"/></switch>'
    ),
    "image": drawing(
        '<image x="20" y="20" width="100" height="100" href="data:image/png;base64,iVBORw0KGgoAAAANSUhEUgAAAAEAAAABCAYAAAAfFcSJAAAADUlEQVR42mP8z8BQDwAEhQGAhKmMIQAAAABJRU5ErkJggg=="/>'
    ),
    "blend": drawing('<g style="mix-blend-mode:multiply"><circle cx="100" cy="100" r="60" fill="red"/></g>'),
    "paint_order": drawing(
        '<circle cx="100" cy="100" r="60" fill="red" stroke="blue" stroke-width="30" paint-order="stroke"/>'
    ),
    "rotate_center": drawing(
        '<rect x="60" y="80" width="80" height="40" fill="red" transform="rotate(30 100 100)"/>'
    ),
    "skew": drawing('<rect x="30" y="60" width="80" height="40" fill="red" transform="skewX(30)"/>'),
    "current_color": drawing('<g color="red"><circle cx="100" cy="100" r="60" fill="currentColor"/></g>'),
    "rgba": drawing('<circle cx="100" cy="100" r="60" fill="rgba(255,0,0,0.8)"/>'),
    "hex8": drawing('<circle cx="100" cy="100" r="60" fill="#ff0000cc"/>'),
    "hsl_space": drawing('<circle cx="100" cy="100" r="60" fill="hsl(120 50% 40% / 0.9)"/>'),
    "important": drawing(
        '<style>.a{fill:red !important}</style><circle class="a" cx="100" cy="100" r="60" style="fill:none"/>'
    ),
    "media": drawing('<style>@media screen{.a{r:90px}}</style><circle class="a" cx="100" cy="100" r="60"/>'),
    "root_style_size": drawing(
        '<circle cx="100" cy="100" r="60"/>', 'style="width:300px;height:200px" viewBox="0 0 200 200"'
    ),
    "animate": drawing(
        '<circle cx="100" cy="100" r="60"><animate attributeName="r" from="10" to="90" dur="1s"/></circle>'
    ),
    "rx_only": drawing('<rect x="20" y="20" width="160" height="100" rx="40" fill="red"/>'),
    "polygon": drawing('<polygon points="100,10 190,190 10,190" fill="red"/>'),
    "line_cap": drawing(
        '<line x1="40" y1="100" x2="160" y2="100" stroke="red" stroke-width="40" stroke-linecap="round"/>'
    ),
    "nth_child": drawing(
        '<style>rect:nth-of-type(2){transform:translate(0,100px)}</style><rect width="50" height="50"/><rect x="100" width="50" height="50"/>'
    ),
    "text_arial": drawing('<text x="10" y="120" font-size="60" font-family="Arial, Helvetica">Pier</text>'),
    "text_serif": drawing('<text x="10" y="120" font-size="60" font-family="NoSuch">Pier</text>'),
}
