"""The lowest versions that pyproject.toml allows of what the program is built on, as constraints for pip."""

import re
import sys
import tomllib
from pathlib import Path

project = tomllib.loads((Path(__file__).parents[1] / "pyproject.toml").read_text())["project"]
for line in [*project["dependencies"], *project["optional-dependencies"]["compiler"]]:
    wanted, _, where = line.partition(";")
    found = re.match(r"([A-Za-z0-9-]+)>=([0-9.]+)", wanted)
    if found is None:
        sys.exit(f"{line} names no lowest version")
    name, least = found.groups()
    if ("< '3.12'" in where and sys.version_info >= (3, 12)) or (">= '3.12'" in where and sys.version_info < (3, 12)):
        continue
    print(f"{name}=={least}")
