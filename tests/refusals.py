"""What the core refuses or cannot do, told by its code."""

from __future__ import annotations

from collections.abc import Iterator
from contextlib import contextmanager

import pytest

from hookset.model import Code, HooksetError


@contextmanager
def refused(code: Code) -> Iterator[pytest.ExceptionInfo[HooksetError]]:
    """What is done within is to end in an error of this code."""
    with pytest.raises(HooksetError) as told:
        yield told
    assert told.value.code == code, told.value
