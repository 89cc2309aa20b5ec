"""What a print can be even in, in words; see `aims`."""

from kyanoscript.core.paper.papers import PAPERS
from kyanoscript.translation import tr

AIMS = {
    "lightness": "lightness L*", "density": "density", "light": "light",
    **{key: tr('as on {lower}', lower=paper.label.partition(',')[0].lower()) for key, paper in PAPERS.items()},
}  # fmt: skip
