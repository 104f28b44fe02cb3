"""What the core refuses or cannot do, told by its code."""

from __future__ import annotations

from collections.abc import Iterator
from contextlib import contextmanager

import pytest

from hookset.model import Code, HooksetError


@contextmanager
def refused(code: Code, what: str = "") -> Iterator[pytest.ExceptionInfo[HooksetError]]:
    """What is done within is to end in an error of this code. `what` tells one of many from the others."""
    try:
        with pytest.raises(HooksetError) as told:
            yield told
    except pytest.fail.Exception as failure:
        raise AssertionError(f"taken without a word: {what}") from failure
    assert told.value.code == code, (told.value, what)
