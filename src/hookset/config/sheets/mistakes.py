"""What a JSON Schema finds wrong, in our own words: the library's differ from release to release.

Keywords are those of JSON Schema 2020-12, "Validation".
"""

from __future__ import annotations

import json
from collections.abc import Callable, Mapping
from typing import Any

__all__ = ["mistake_in_words"]

_SHOWN = 60
"""Characters of a value that are shown."""


def _json(value: Any) -> str:
    text = json.dumps(value, ensure_ascii=False, default=str)
    return text if len(text) <= _SHOWN else f"{text[:_SHOWN]}…"


_WORDS: Mapping[str, Callable[[Any], str]] = {
    "required": lambda error: f"it lacks `{error.kind.property}`",
    "type": lambda error: f"{_json(error.instance)} is not of type {' or '.join(sorted(error.kind.types))}",
    "enum": lambda error: f"{_json(error.instance)} is not one of {', '.join(map(_json, error.kind.options))}",
    "const": lambda error: f"{_json(error.instance)} is not {_json(error.kind.expected_value)}",
    "pattern": lambda error: f"{_json(error.instance)} does not match `{error.kind.pattern}`",
    "minimum": lambda error: f"{_json(error.instance)} is less than {error.kind.limit}",
    "maximum": lambda error: f"{_json(error.instance)} is more than {error.kind.limit}",
    "exclusiveMinimum": lambda error: f"{_json(error.instance)} is not more than {error.kind.limit}",
    "exclusiveMaximum": lambda error: f"{_json(error.instance)} is not less than {error.kind.limit}",
    "multipleOf": lambda error: f"{_json(error.instance)} is not a multiple of {error.kind.multiple_of}",
    "minLength": lambda error: f"{_json(error.instance)} is shorter than {error.kind.limit} characters",
    "maxLength": lambda error: f"{_json(error.instance)} is longer than {error.kind.limit} characters",
    "minItems": lambda error: f"it has fewer than {error.kind.limit} values",
    "maxItems": lambda error: f"it has more than {error.kind.limit} values",
    "minProperties": lambda error: f"it has fewer than {error.kind.limit} keys",
    "maxProperties": lambda error: f"it has more than {error.kind.limit} keys",
    "uniqueItems": lambda _: "it has the same value twice",
    "additionalProperties": lambda error: f"the key `{'`, `'.join(error.kind.unexpected)}` is not known",
    "falseSchema": lambda error: f"{_json(error.instance)} is not allowed here",
    "propertyNames": lambda error: f"the key {mistake_in_words(error.kind.error)}",
}


def mistake_in_words(error: Any) -> str:
    """One `jsonschema_rs.ValidationError` as part of a sentence."""
    words = _WORDS.get(error.kind.name)
    return words(error) if words is not None else f"{_json(error.instance)} does not fit `{error.kind.name}`"
