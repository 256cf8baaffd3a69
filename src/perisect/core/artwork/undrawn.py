"""What a drawing asks for that is drawn by browsers and not here: said, so that nobody cuts round a surprise."""

import re
import xml.etree.ElementTree as ET

_GEOMETRY = r"(?<![-\w])(cx|cy|r|rx|ry|x|y|d)\s*:"
_IN_STYLES = {
    "shapes given in CSS": re.compile(_GEOMETRY),
    "CSS transforms": re.compile(r"(?<![-\w])(transform(-origin|-box)?|translate|rotate|scale)\s*:"),
    "CSS clipping": re.compile(r"clip-path\s*:\s*(?!url|none|inherit)\w"),
    "lines that keep their width": re.compile(r"vector-effect\s*:\s*(?!none)\w"),
    "CSS animation": re.compile(r"(?<![-\w])animation(-\w+)?\s*:|@keyframes"),
    "CSS that depends on the screen": re.compile(r"@(media|supports|container|layer)"),
    "CSS masks": re.compile(r"(?<![-\w])mask(-image)?\s*:\s*(?!url|none|inherit)\w"),
    "colours in CSS functions": re.compile(
        r"(lab|lch|oklab|oklch|color|color-mix|hwb)\(|(rgb|hsl)a?\([^,)]*\)"
    ),
}
_SELECTORS = re.compile(r":(nth|not|is|where|has|only|empty|first-of|last-of|root|last-child)[-(\w]*|::")
_CLIPS = re.compile(r"\s*(?!url|none|inherit)\w")
_ANIMATED = {"animate", "animateTransform", "animateMotion", "set"}


def undrawn(root: ET.Element) -> str:
    """One sentence that names what of a drawing is left out or may look otherwise; empty where all of it is drawn."""
    found: dict[str, None] = {}
    for element in root.iter():
        name = str(element.tag).rsplit("}", 1)[-1]
        if name in _ANIMATED:
            found["animation"] = None
        sheet = name == "style"
        styles = (element.text or "") if sheet else element.get("style", "")
        if sheet and _SELECTORS.search(re.sub(r"\{[^}]*\}", "", styles)):
            found["CSS selectors"] = None
        if styles:
            # The names of rules are none of their words.
            words = " ".join(re.findall(r"\{([^{}]*)\}", styles)) + " ".join(re.findall(r"@\w+", styles))
            found |= {
                told: None
                for told, pattern in _IN_STYLES.items()
                if pattern.search(words if sheet else styles)
            }
        for key, value in element.attrib.items():
            if key == "vector-effect" and value != "none":
                found["lines that keep their width"] = None
            elif key == "clip-path" and _CLIPS.match(value):
                found["CSS clipping"] = None
            elif key in ("fill", "stroke", "stop-color") and _IN_STYLES["colours in CSS functions"].search(
                value
            ):
                found["colours in CSS functions"] = None
            elif key in ("transform-origin", "transform-box"):
                found["CSS transforms"] = None
    if not found:
        return ""
    *first, last = found
    told = f"{', '.join(first)} and {last}" if first else last
    return f"uses {told}, which may not be drawn here as a browser does. Look at it closely, or export plain shapes."
