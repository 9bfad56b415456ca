"""Trials as they went: in words with what was so instead, drawn where one failed, as data, and as JUnit XML."""

from collections.abc import Sequence
from typing import Any

from jaklet.core.values.chords import keys_written
from jaklet.core.values.config import Config
from jaklet.core.values.words import counted, printable
from jaklet.drawing.ink import PLAIN, Ink
from jaklet.drawing.rehearsals import act_lines, strip_text
from jaklet.rehearsal.proofs import Counterexample, Proof
from jaklet.rehearsal.trials import TrialResult


def result_name(result: TrialResult) -> str:
    """Return the name of a trial, with the displays that it ran on."""
    return f"{result.trial.name} ({result.where})" if result.where else result.trial.name


def results_text(
    results: Sequence[TrialResult], config: Config, width: int, ink: Ink = PLAIN, shots: bool = True
) -> str:
    """Return a line for each trial; below one that failed what was expected, what was so, and the desk drawn."""
    lines = []
    for result in results:
        mark = ink("passed", "good") if result.passed else ink("failed", "error")
        lines.append(f"{mark}  {printable(result_name(result))}")
        if result.passed:
            continue
        lines.append(ink(f"  {result.trial.spot}", "faint"))
        for one in result.failures:
            where = f", line {one.expectation.spot.line}" if one.expectation.spot.line != result.trial.spot.line else ""
            lines.append(f"  {ink('-', 'good')} {one.expectation.text}{ink(f'  expected{where}', 'faint')}")
            lines.append(f"  {ink('+', 'error')} {printable(one.instead)}")
        if shots:
            lines += ["  " + line for act in result.acts for line in act_lines(act, config, ink, width - 2)]
            lines += ["", *strip_text(result.acts, config, width, ink).split("\n"), ""] if result.acts else []
    failed = sum(not result.passed for result in results)
    pressed = sum(len(result.acts) for result in results)
    told = (
        f"{failed} of {counted(len(results), 'trial')} failed" if failed else f"{counted(len(results), 'trial')} passed"
    )
    lines.append(f"{told}; {counted(pressed, 'key')} pressed")
    return "\n".join(lines)


def results_data(results: Sequence[TrialResult]) -> list[dict[str, Any]]:
    """Return the results as data for JSON."""
    return [
        {
            "trial": result.trial.name,
            "displays": result.where,
            "file": result.trial.spot.path,
            "line": result.trial.spot.line,
            "passed": result.passed,
            "failures": [{"expected": one.expectation.text, "instead": one.instead} for one in result.failures],
            "seconds": round(result.seconds, 4),
        }
        for result in results
    ]


def junit_xml(results: Sequence[TrialResult]) -> str:
    """Return the results in the XML that build servers read."""
    from xml.etree.ElementTree import Element, SubElement, indent, tostring

    failed = sum(not result.passed for result in results)
    seconds = sum(result.seconds for result in results)
    suite = Element(
        "testsuite", name="jaklet trials", tests=str(len(results)), failures=str(failed), errors="0", skipped="0",
        time=f"{seconds:.4f}",
    )  # fmt: skip
    for result in results:
        case = SubElement(
            suite, "testcase", name=printable(result_name(result)), classname=printable(result.trial.spot.path),
            file=printable(result.trial.spot.path), line=str(result.trial.spot.line), time=f"{result.seconds:.4f}",
        )  # fmt: skip
        for one in result.failures:
            failure = SubElement(case, "failure", message=printable(f"{one.expectation.text}: {one.instead}"))
            failure.text = f"{one.expectation.spot}: expected {one.expectation.text}, and {printable(one.instead)}"
    root = Element("testsuites")
    root.append(suite)
    indent(root)
    return '<?xml version="1.0" encoding="utf-8"?>\n' + tostring(root, encoding="unicode") + "\n"


def proof_text(proof: Proof, seconds: float, ink: Ink = PLAIN) -> str:
    """Return the findings of a proof, and its counts."""
    lines = []
    for one in proof.found:
        lines.append(f"{ink('does not hold', 'error')}  press: {ink(keys_written(one.keys) or 'nothing', 'strong')}")
        lines.append(f"  {printable(one.problem)}{_about(one)}")
    lines += [f"no key recalls layout {printable(name)}: it was left out" for name in proof.unreached]
    size = f"{counted(proof.layouts, 'layout')}, {proof.foci} with the focus, {counted(proof.layers, 'layer')},"
    tried = f"{counted(proof.states, 'state')}, {counted(proof.presses, 'press', 'presses')}"
    cost = f"{size} {counted(proof.chords, 'chord')}: {tried}"
    if not proof.layouts:
        lines.append("there is no layout yet, so that only layers were tried")
    told = f"{counted(len(proof.found), 'counterexample')}"
    if proof.cut:
        told += "; there are so many states that not all were tried, and nothing is proved"
    if proof.holds:
        told = f"{ink('holds', 'good')}: from each state that keys can reach, every recall key leads to its layout"
        told += ", or keys lead out to where it does" if proof.asked else ""
    lines.append(told)
    lines += [f"  {printable(one)}" for one in proof.asked]
    lines.append(f"{cost}, {seconds:.2f} s")
    return "\n".join(lines)


def _about(one: Counterexample) -> str:
    return f" ({one.binding.spot}: {one.binding.written}: {one.binding.action})" if one.binding else ""


def proof_data(proof: Proof, seconds: float) -> dict[str, Any]:
    """Return a proof as data for JSON."""
    cost = {name: getattr(proof, name) for name in ("layouts", "foci", "layers", "chords", "states", "presses")}
    found = [
        {
            "press": [str(chord) for chord in one.keys],
            "problem": one.problem,
            "binding": one.binding.written if one.binding else None,
            "line": one.binding.spot.line if one.binding else None,
        }
        for one in proof.found
    ]
    return {
        "holds": proof.holds,
        "cut": proof.cut,
        "asked": proof.asked,
        "counterexamples": found,
        "unreached": proof.unreached,
        **cost,
        "seconds": seconds,
    }
