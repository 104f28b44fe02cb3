"""What the error codes of libxml2 mean (its `xmlerror.h`). The library's own words differ from release to release."""

from __future__ import annotations

from lxml import etree

__all__ = ["mistake"]

_CODES = etree.ErrorTypes
_WORDS = {
    _CODES.ERR_DOCUMENT_EMPTY: "it does not begin with an element",
    _CODES.ERR_DOCUMENT_END: "something stands behind the outermost element",
    _CODES.ERR_TAG_NAME_MISMATCH: "an element is closed by the name of another one",
    _CODES.ERR_TAG_NOT_FINISHED: "an element is not closed",
    _CODES.ERR_GT_REQUIRED: "a tag is not closed by `>`",
    _CODES.ERR_LT_REQUIRED: "a tag does not begin with `<`",
    _CODES.ERR_LTSLASH_REQUIRED: "a closing tag is missing",
    _CODES.ERR_EQUAL_REQUIRED: "an attribute has no `=`",
    _CODES.ERR_ATTRIBUTE_WITHOUT_VALUE: "an attribute has no value",
    _CODES.ERR_ATTRIBUTE_NOT_STARTED: "an attribute's value has no quotes",
    _CODES.ERR_ATTRIBUTE_NOT_FINISHED: "an attribute's value is not closed by its quote",
    _CODES.ERR_ATTRIBUTE_REDEFINED: "an element has the same attribute twice",
    _CODES.ERR_LT_IN_ATTRIBUTE: "an attribute's value holds `<`; write `&lt;`",
    _CODES.ERR_NAME_REQUIRED: "a name is missing; a lone `&` or `<` is written `&amp;` or `&lt;`",
    _CODES.ERR_ENTITYREF_SEMICOL_MISSING: "an entity is not closed by `;`; a lone `&` is written `&amp;`",
    _CODES.ERR_UNDECLARED_ENTITY: "an entity is not defined",
    _CODES.ERR_INVALID_CHAR: "a character is not allowed in XML",
    _CODES.ERR_INVALID_CHARREF: "a character reference is wrong",
    _CODES.ERR_SPACE_REQUIRED: "a blank is missing between two attributes",
    _CODES.ERR_COMMENT_NOT_FINISHED: "a comment is not closed",
    _CODES.ERR_CDATA_NOT_FINISHED: "a CDATA section is not closed",
    _CODES.ERR_PI_NOT_FINISHED: "a processing instruction is not closed",
    _CODES.ERR_XMLDECL_NOT_FINISHED: "the XML declaration is not closed",
    _CODES.ERR_RESERVED_XML_NAME: "something stands before the XML declaration",
    # Older releases of lxml have no name for it.
    getattr(_CODES, "ERR_RESOURCE_LIMIT", 114): "it is nested too deeply or too large",
    _CODES.NS_ERR_UNDEFINED_NAMESPACE: "a namespace prefix is not defined",
}


def mistake(code: int) -> str:
    """What is wrong, in words, for a code of `xmlParserErrors`."""
    return _WORDS.get(code, "it cannot be read from here on")
