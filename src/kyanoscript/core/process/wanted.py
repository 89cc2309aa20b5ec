"""What a print can be even in, in words; see `aims`."""

from kyanoscript.core.paper.papers import PAPERS

AIMS = {
    "lightness": "lightness L*", "density": "density", "light": "light",
    **{key: f"as on {paper.label.partition(',')[0].lower()}" for key, paper in PAPERS.items()},
}  # fmt: skip
