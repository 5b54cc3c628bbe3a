"""Every operation with made-up requests, held against all checks; the short form is a test.

``make fuzz`` runs the long one: some thousand requests, fitting the description and not. Nothing
may break, what fits must be taken, what does not refused, and answers must be as described.
"""

from __future__ import annotations

import argparse
import json
import re
import sys
import tempfile
import unicodedata
from collections import Counter
from collections.abc import Iterator
from contextlib import contextmanager
from functools import cache
from pathlib import Path
from typing import Any
from urllib.parse import parse_qsl, urlsplit

import httpx
import schemathesis
from hypothesis import HealthCheck, Phase, given, settings
from hypothesis.errors import Unsatisfiable
from schemathesis.checks import not_a_server_error
from schemathesis.core.failures import AcceptedNegativeData, Failure, FailureGroup
from schemathesis.generation import GenerationMode
from schemathesis.openapi.checks import RejectedPositiveData
from schemathesis.specs.openapi import checks as of_openapi
from tests.served import options_for, served, upload, wait

from neatpatch.api.app import create_app
from neatpatch.api.describe import describe
from neatpatch.simulation.frames import Recipe, write_simulated
from neatpatch.store.datafolder import Library

CHECKS = [
    not_a_server_error,
    of_openapi.status_code_conformance,
    of_openapi.content_type_conformance,
    of_openapi.response_headers_conformance,
    of_openapi.response_schema_conformance,
    of_openapi.negative_data_rejection,
    of_openapi.positive_data_acceptance,
    of_openapi.missing_required_header,
    of_openapi.unsupported_method,
]
BY_MEANING = re.compile(
    "whole path|no such (file|folder)|still to come|has passed|lies before the first|be a JPEG"
    "|not a picture|another request|cannot be read|growing|say what|what is to be done"
    "|nothing was done|not among those|same name|at least 1 character|twice|more than one"
    "|longer ago|day until|places are noted|be patched|first into which|is not measured"
    "|belongs to the system|must be told|GIF pictures|is empty|narrower than|once only"
)
"""Refusals for what a request means (a folder that is not there, a day that has passed), which no
description of its form can tell."""


@contextmanager
def api_with_something_of_everything(folder: Path) -> Iterator[Any]:
    """The description of a served application with a frame, a camera, a visit, a kit and a job."""
    page = folder / "page"
    (page / "assets").mkdir(parents=True)
    (page / "index.html").write_text("<title>Neat Patch</title>")
    recipe = Recipe(seed=8, name="small", width_px=1500, counts={"speck": 6, "fibre": 1})
    frame = write_simulated(recipe, folder)[0]
    app = create_app(Library(folder / "data"), options_for(page))
    with served(app) as url, httpx.Client(base_url=url) as client:
        wait(client, upload(client, frame).json()["job"]["id"])
        for path, body in (
            ("/api/bodies", {"name": "Study", "sensor_mm": [23.5, 15.6]}),
            ("/api/visits", {"body_id": 1, "frame_id": 1}),
            ("/api/kit", {"item": {"item": "dry_swab", "width_mm": 16, "quantity": 9}}),
            ("/api/bookings", {"name": "Charts", "starts_on": "2199-01-01", "body_ids": [1]}),
            ("/api/visits/1/steps", {"step": "air", "against": "first"}),
        ):
            assert client.post(path, json=body).status_code == 201
        yield schemathesis.openapi.from_url(f"{url}/api/openapi.json")


def operations() -> list[tuple[str, str, GenerationMode]]:
    """All operations, each asked rightly and wrongly.

    Event streams may be endless and are left out; those that take nothing, or any bytes, cannot be
    asked wrongly.
    """
    return [
        (path, method, mode)
        for path, described in json.loads(describe())["paths"].items()
        for method, told in described.items()
        for mode in GenerationMode
        if not path.endswith("/events")
        and not (path.endswith("/logo") and mode is GenerationMode.NEGATIVE)
        and (mode is GenerationMode.POSITIVE or {"parameters", "requestBody"} & set(told))
    ]


def faults_of(case: schemathesis.Case[Any], response: Any) -> list[Failure]:
    """What is wrong with the answer to one request."""
    try:
        case.validate_response(response, checks=CHECKS)
    except (Failure, FailureGroup) as failure:
        found = list(failure.exceptions) if isinstance(failure, FailureGroup) else [failure]
        return [f for f in found if not _is_meant(f, case, response)]
    return []


def _text_of(response: Any) -> str:
    return bytes(response.content).decode("utf-8", "replace")


def _is_meant(failure: Failure, case: schemathesis.Case[Any], response: Any) -> bool:
    if isinstance(failure, RejectedPositiveData):
        return BY_MEANING.search(_text_of(response)) is not None
    if not isinstance(failure, AcceptedNegativeData):
        return False
    return _has_controls(str(case.body)) or _reads_as_right(case, response)


def _reads_as_right(case: schemathesis.Case[Any], response: Any) -> bool:
    """Of what was wrong nothing is left in the address (an empty list), or it is a spelling of yes
    or no that an address has always had."""
    sent = parse_qsl(urlsplit(str(response.request.url)).query, keep_blank_values=True)
    spelt = any(name in _flags() and value.lower() in _YES_OR_NO for name, value in sent)
    return spelt or (bool(case.query) and not sent)


@cache
def _flags() -> set[str]:
    """Names of what is yes or no in an address."""
    return {
        parameter["name"]
        for path in json.loads(describe())["paths"].values()
        for told in path.values()
        for parameter in told.get("parameters", ())
        if parameter["schema"].get("type") == "boolean"
    }


_YES_OR_NO = {"0", "1", "t", "f", "y", "n", "yes", "no", "on", "off"}


def _has_controls(text: str) -> bool:
    """Characters that cannot be kept are taken out of texts, which are shorter then."""
    plain = text.encode("ascii", "ignore").decode("unicode_escape", "ignore") + text
    return any(unicodedata.category(c) in ("Cc", "Cs") for c in plain) or "\\x" in text


def ask(api: Any, operation: tuple[str, str, GenerationMode], many: int) -> list[str]:
    """Ask one operation so many times; gives what was wrong, in words."""
    path, method, mode = operation
    wrong: list[str] = []

    @settings(
        max_examples=many,
        deadline=None,
        derandomize=True,
        database=None,
        phases=[Phase.generate],
        suppress_health_check=list(HealthCheck),
    )
    @given(case=api[path][method].as_strategy(generation_mode=mode))
    def run(case: schemathesis.Case[Any]) -> None:
        response = case.call()
        asked = f"{method} {response.request.url}"
        said = f"{asked} answered {response.status_code} {_text_of(response)[-160:]}"
        found = faults_of(case, response)
        wrong.extend(f"{said}: {type(fault).__name__} {case.body!r}" for fault in found)

    try:
        run()
    except Unsatisfiable:
        return []
    return wrong


def main() -> int:
    """Run the long form; prints what is wrong and gives 1 where anything is."""
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--many", type=int, default=40, help="requests for each operation and mode")
    many = parser.parse_args().many
    wrong: Counter[str] = Counter()
    with (
        tempfile.TemporaryDirectory() as folder,
        api_with_something_of_everything(Path(folder)) as api,
    ):
        asked = operations()
        for operation in asked:
            wrong.update(text[:400] for text in ask(api, operation, many))
    for text, times in wrong.most_common():
        print(f"{times} x {text}")
    print(f"{len(asked)} operations and modes, up to {many} requests each: {len(wrong)} faults")
    return 1 if wrong else 0


if __name__ == "__main__":
    sys.exit(main())
