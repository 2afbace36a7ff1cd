"""Targets as a JUnit report, as continuous integration shows them: one test for each target."""

from __future__ import annotations

from collections.abc import Iterable

from junitparser import Failure, JUnitXml, Skipped, TestCase, TestSuite

from cinetica.reading.targets import Verdict


def junit_text(study: str, found: Iterable[Verdict], *, strict: bool = False) -> str:
    """A suite for each drill.

    A test is named by its figure and range; a failure gives the value. A figure that the drill does not show is skipped
    or, if `strict`, a failure.
    """
    report = JUnitXml(_plain(study))
    suites: dict[str, TestSuite] = {}
    for verdict in found:
        suite = suites.setdefault(verdict.drill, TestSuite(_plain(verdict.drill)))
        case = TestCase(_plain(f"{verdict.label} {verdict.wanted}"), _plain(f"{verdict.drill}.{verdict.tune}"))
        if verdict.missed or (strict and not verdict.met):
            case.result = [Failure(_plain(verdict.why), "target")]
        elif not verdict.met:
            case.result = [Skipped(_plain(verdict.why))]
        suite.add_testcase(case)
    for suite in suites.values():
        report.add_testsuite(suite)
    text: bytes = report.tostring()  # type: ignore[no-untyped-call]
    return text.decode() + "\n"


def _plain(text: str) -> str:
    """The text without characters that XML does not allow."""
    return "".join(letter if letter.isprintable() else " " for letter in text)
