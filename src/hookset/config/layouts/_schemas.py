"""The JSON Schemas that layouts have for records: whether they are some, and whether each word in them is one."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Any

from hookset.config.layouts.schema import LayoutFile
from hookset.config.sheets import Complaint, nearest
from hookset.formats.pointers import pointer

__all__ = ["schema_mistakes"]

_OF_ONE = (
    "additionalProperties", "contains", "contentSchema", "else", "if", "items", "not", "propertyNames", "then",
    "unevaluatedItems", "unevaluatedProperties",
)  # fmt: skip
_OF_EACH = ("$defs", "definitions", "dependentSchemas", "patternProperties", "properties")
_OF_SEVERAL = ("allOf", "anyOf", "oneOf", "prefixItems")
_WORDS = frozenset((
    *_OF_ONE, *_OF_EACH, *_OF_SEVERAL, "$anchor", "$comment", "$dynamicAnchor", "$dynamicRef", "$id", "$ref", "$schema",
    "$vocabulary", "const", "contentEncoding", "contentMediaType", "default", "dependentRequired", "deprecated",
    "description", "enum", "examples", "exclusiveMaximum", "exclusiveMinimum", "format", "maxContains", "maxItems",
    "maxLength", "maxProperties", "maximum", "minContains", "minItems", "minLength", "minProperties", "minimum",
    "multipleOf", "pattern", "readOnly", "required", "title", "type", "uniqueItems", "writeOnly",
))  # fmt: skip
"""The keywords of JSON Schema, draft 2020-12."""
_DEEPEST = 50


def schema_mistakes(entry: LayoutFile) -> Iterator[Complaint]:
    """What is no JSON Schema, and what would mean nothing in one. Asked of layouts that somebody writes: the library
    for it takes a while to load."""
    import jsonschema_rs

    for index, read in enumerate(entry.read):
        schema = read.record.get("schema", {}) if read.record is not None else {}
        at = f"/read/{index}/record/schema"
        try:
            jsonschema_rs.Draft202012Validator(schema)
        except (jsonschema_rs.ValidationError, ValueError) as error:
            path = tuple(getattr(error, "instance_path", ()))
            inside = "/".join(map(str, path))
            said = f"`schema` is no JSON Schema{f': see `{inside}` in it' if inside else ''}"
            yield Complaint(at + pointer(path), said)
        else:
            yield from _unknown(schema, at)


def _unknown(schema: Any, at: str, depth: int = 0) -> Iterator[Complaint]:
    """Keywords that are none: what they were to say would not be asked."""
    if not isinstance(schema, dict) or depth > _DEEPEST:
        return
    for key, value in schema.items():
        here = at + pointer((key,))
        if key not in _WORDS:
            yield Complaint(here, f"JSON Schema has no `{key}`{nearest(key, sorted(_WORDS))}")
        elif key in _OF_ONE:
            yield from _unknown(value, here, depth + 1)
        elif key in _OF_EACH and isinstance(value, dict):
            for name, below in value.items():
                yield from _unknown(below, here + pointer((name,)), depth + 1)
        elif key in _OF_SEVERAL and isinstance(value, list):
            for number, below in enumerate(value):
                yield from _unknown(below, f"{here}/{number}", depth + 1)
