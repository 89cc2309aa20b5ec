"""What pyproject.toml cannot say: a wheel carries the kernels ready for the two usual levels of x86-64."""

import os
import platform
import subprocess
import sys
from pathlib import Path

from setuptools import setup
from setuptools.command.bdist_wheel import bdist_wheel
from setuptools.command.build_py import build_py

READY = sys.platform == "linux" and platform.machine() == "x86_64"  # elsewhere they are compiled on first use
BUILD = "from kyanoscript.core.kernel import build, library; build.ahead(tuple(library.LEVELS))"
KERNELS = Path("kyanoscript/core/kernel/ready")


class WithKernels(build_py):
    """The package with the libraries of its kernels, which are built where it lies: what has not changed is there."""

    def run(self) -> None:
        """Stops where a library is missing. An editable install is made ready by `tools/setup.sh`."""
        if not READY or self.editable_mode:
            super().run()
            return
        path = os.pathsep.join([os.path.abspath("src"), *sys.path])
        subprocess.run([sys.executable, "-c", BUILD], env={**os.environ, "PYTHONPATH": path}, check=True)
        super().run()
        built, source = Path(self.build_lib) / KERNELS, Path("src") / KERNELS
        names = {file.relative_to(source) for file in source.glob("*/*.so")}
        for file in built.glob("*/*.so"):
            if file.relative_to(built) not in names:  # from an earlier build
                file.unlink()
        if {file.relative_to(built) for file in built.glob("*/*.so")} != names or not names:
            raise SystemExit("the package was made without its kernels")


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
