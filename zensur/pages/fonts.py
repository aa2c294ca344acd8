"""Our faces, to be embedded in pages that stand alone; where they were not built, a reader's own stand in."""

from base64 import b64encode
from functools import cache
from pathlib import Path

_FACES = {
    "atkinson-hyperlegible-next-latin-400-normal": ("Atkinson Hyperlegible Next", 400),
    "atkinson-hyperlegible-mono-latin-400-normal": ("Atkinson Hyperlegible Mono", 400),
    "source-serif-4-latin-600-normal": ("Source Serif 4", 600),
}
FOLDER = Path(__file__).parent / "fonts"
"""Where the build of the front end puts them (WOFF2, SIL Open Font License)."""


@cache
def embedded_fonts() -> str:
    """Return the rules that define the faces, each with its file within (RFC 2397)."""
    rules = []
    for file, (family, weight) in _FACES.items():
        path = FOLDER / f"{file}.woff2"
        if path.is_file():
            data = b64encode(path.read_bytes()).decode("ascii")
            rules.append(
                f'@font-face {{ font-family: "{family}"; font-weight: {weight}; '
                f'src: url("data:font/woff2;base64,{data}") format("woff2"); }}'
            )
    return "\n".join(rules)
