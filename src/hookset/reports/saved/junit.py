"""JUnit's XML: what build servers count. Each check is a test; each finding that fails is a failure of it."""

from __future__ import annotations

import re
from xml.etree import ElementTree

from hookset.checks import all_checks
from hookset.model import Finding, Severity
from hookset.model.visible import visible
from hookset.reports.saved.report_input import ReportInput, SavedReport

__all__ = ["REPORT"]

_NOT_XML = re.compile("[\ufffe\uffff]")


def _plain(text: str) -> str:
    """XML 1.0 has no place for some characters, and names in a map may hold any."""
    return _NOT_XML.sub("\N{REPLACEMENT CHARACTER}", visible(text))


def _case(suite: ElementTree.Element, family: str, code: str, title: str, findings: list[Finding]) -> bool:
    case = ElementTree.SubElement(suite, "testcase", classname=f"hookset.{family}", name=f"{code}: {title}")
    failing = [finding for finding in findings if finding.severity is not Severity.NOTE]
    for finding in failing:
        failure = ElementTree.SubElement(case, "failure", type=finding.severity.word)
        failure.set("message", _plain(f"{finding.spot}: {finding.message}"))
        failure.text = _plain(f"{finding.spot}: {finding.message}\nwhy: {finding.why}\ndo: {finding.remedy}")
    notes = [finding for finding in findings if finding.severity is Severity.NOTE]
    if notes:
        out = ElementTree.SubElement(case, "system-out")
        out.text = _plain("\n".join(f"{finding.spot}: {finding.message}" for finding in notes))
    return bool(failing)


def _written(told: ReportInput) -> str:
    suite = ElementTree.Element(
        "testsuite", name=_plain(f"{told.name} {told.version}"), timestamp=told.time.rstrip("Z")
    )
    failed = 0
    for check in all_checks():
        found = [finding for finding in told.findings if finding.code == check.code]
        failed += _case(suite, check.family, check.code, check.title, found)
    suite.set("tests", str(len(all_checks())))
    suite.set("failures", str(failed))
    suite.set("errors", "0")
    top = ElementTree.Element("testsuites")
    top.append(suite)
    ElementTree.indent(top, " ")
    return '<?xml version="1.0" encoding="UTF-8"?>\n' + ElementTree.tostring(top, encoding="unicode") + "\n"


REPORT = SavedReport(".xml", "JUnit XML, for build servers", _written)
