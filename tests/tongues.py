"""Speaking another language for a while."""

import contextlib
import os

from kyanoscript import translation


@contextlib.contextmanager
def speaking(language):
    """Everything that is said within is said in that language."""
    before = os.environ.get("LANGUAGE")
    os.environ["LANGUAGE"] = language
    translation.forget()
    try:
        yield
    finally:
        if before is None:
            del os.environ["LANGUAGE"]
        else:
            os.environ["LANGUAGE"] = before
        translation.forget()
