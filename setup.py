"""What pyproject.toml cannot say: the wheel carries the kernels ready for the two usual levels of x86-64."""

import os
import platform
import subprocess
import sys

from setuptools import setup
from setuptools.command.bdist_wheel import bdist_wheel
from setuptools.command.build_py import build_py

LEVELS = ("x86-64-v3", "x86-64-v2")
READY = sys.platform == "linux" and platform.machine() == "x86_64"  # elsewhere they are compiled on first use
BUILD = """
from kyanoscript.core import passes
from kyanoscript.core.kernel import build, library, mark
from kyanoscript.core.render import renderer

passes.load_all()
for module in mark.modules():
    build.make(module, library.ready(library.level()))
"""


class WithKernels(build_py):
    """The package, then the libraries of its kernels built from it."""

    def run(self) -> None:
        """Both levels at once; an editable install builds what it needs when it needs it."""
        super().run()
        if not READY or self.editable_mode:
            return
        path = os.pathsep.join([os.path.abspath(self.build_lib), *sys.path])
        building = [
            subprocess.Popen(
                [sys.executable, "-c", BUILD], env={**os.environ, "KYANOSCRIPT_PROCESSOR": level, "PYTHONPATH": path}
            )
            for level in LEVELS
        ]
        codes = [child.wait() for child in building]
        if any(codes):
            raise SystemExit("the kernels could not be built")


class ForThisMachine(bdist_wheel):
    """Libraries are for one kind of machine, and for every Python."""

    def finalize_options(self) -> None:
        """Not a wheel of Python alone."""
        super().finalize_options()
        self.root_is_pure = not READY

    def get_tag(self) -> tuple[str, str, str]:
        """Python's version does not matter: the libraries know nothing of it."""
        _, _, machine = super().get_tag()
        return "py3", "none", machine


setup(cmdclass={"build_py": WithKernels, "bdist_wheel": ForThisMachine})
