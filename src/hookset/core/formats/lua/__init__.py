"""Lua 5.1 to 5.4, parsed by a grammar: comments, strings and nesting are what they are, not what they look like."""

from hookset.core.formats.lua.document import FORMAT

__all__ = ["FORMAT"]
