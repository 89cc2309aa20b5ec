"""What pyproject.toml cannot say: a wheel carries the kernels ready for the two usual levels of x86-64."""

import os
import platform
import re
import subprocess
import sys
from pathlib import Path

from setuptools import Distribution, setup
from setuptools.command.bdist_wheel import bdist_wheel
from setuptools.command.build_py import build_py

READY = sys.platform == "linux" and platform.machine() == "x86_64"  # elsewhere they are compiled on first use
BUILD = """
import sys
sys.path[:] = {path!r}
from kyanoscript.core.kernel import build, library
build.ahead({asked!r} or tuple(library.LEVELS))
"""
GLIBC = 27  # of 2.27: what the libraries ask of the system is held against it
KERNELS = Path("kyanoscript/core/kernel/ready")


class WithKernels(build_py):
    """The package with the libraries of its kernels, which are built where it lies: what has not changed is there."""

    def run(self) -> None:
        """Stops where a library is missing. An editable install is made ready by `tools/setup.sh`."""
        if not READY or self.editable_mode:
            super().run()
            return
        asked = os.environ.get("KYANOSCRIPT_PROCESSOR", "").split()  # one kind alone
        code = BUILD.format(path=[os.path.abspath("src"), *sys.path], asked=asked)
        subprocess.run([sys.executable, "-I", "-c", code], check=True)
        super().run()
        built, source = Path(self.build_lib) / KERNELS, Path("src") / KERNELS
        names = {file.relative_to(source) for file in source.glob("*/*.so")}
        for file in built.glob("*/*.so"):
            if file.relative_to(built) not in names:  # from an earlier build
                file.unlink()
        if {file.relative_to(built) for file in built.glob("*/*.so")} != names or not names:
            raise SystemExit("the package was made without its kernels")
        for file in built.glob("*/*.so"):
            needs = max(map(int, re.findall(rb"GLIBC_2\.(\d+)", file.read_bytes())), default=0)
            if needs > GLIBC:
                raise SystemExit(f"{file.name} asks for GLIBC 2.{needs}: the name of the wheel promises 2.{GLIBC}")


class ForThisMachine(bdist_wheel):
    """Libraries are for one kind of machine, and for every Python."""

    def get_tag(self) -> tuple[str, str, str]:
        """Python's version does not matter: the libraries know nothing of it, and little of the system."""
        _, _, machine = super().get_tag()
        return "py3", "none", f"manylinux_2_{GLIBC}_x86_64" if READY else machine


class WithLibraries(Distribution):
    """Not of Python alone, though Python's own headers have no part in it."""

    def has_ext_modules(self) -> bool:
        return READY


setup(distclass=WithLibraries, cmdclass={"build_py": WithKernels, "bdist_wheel": ForThisMachine})
