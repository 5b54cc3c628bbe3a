"""Every operation with made-up requests: no answer of 5xx, none that its description lacks."""

from __future__ import annotations

import itertools
import json
from collections.abc import Iterator
from contextlib import suppress
from pathlib import Path
from typing import Any

import httpx
import pytest
import schemathesis
from hypothesis import HealthCheck, Phase, given, seed, settings
from hypothesis.errors import FlakyStrategyDefinition
from schemathesis.checks import not_a_server_error
from schemathesis.core.failures import Failure, FailureGroup
from schemathesis.generation import GenerationMode
from schemathesis.specs.openapi.checks import (
    content_type_conformance,
    response_schema_conformance,
    status_code_conformance,
)

from neatpatch.api.app import create_app
from neatpatch.api.describe import describe
from neatpatch.store.datafolder import Library
from tests.served import options_for, served, upload, wait

CHECKS = [
    not_a_server_error,
    status_code_conformance,
    content_type_conformance,
    response_schema_conformance,
]
QUICK = settings(
    max_examples=6,
    deadline=None,
    derandomize=True,
    database=None,
    phases=[Phase.generate],
    suppress_health_check=list(HealthCheck),
)

_ENOUGH_REQUESTS = 100


@pytest.fixture(scope="module")
def api_schema(
    tmp_path_factory: pytest.TempPathFactory, page: Path, small_jpeg: Path
) -> Iterator[Any]:
    """The description of a served application with something of everything in it."""
    app = create_app(Library(tmp_path_factory.mktemp("fuzzed")), options_for(page))
    with served(app) as url, httpx.Client(base_url=url) as client:
        wait(client, upload(client, small_jpeg).json()["job"]["id"])
        for path, body in (
            ("/api/bodies", {"name": "Study", "sensor_mm": [23.5, 15.6]}),
            ("/api/visits", {"body_id": 1, "frame_id": 1}),
            ("/api/kit", {"item": {"item": "dry_swab", "width_mm": 16, "quantity": 9}}),
            ("/api/bookings", {"name": "Charts", "starts_on": "2199-01-01", "body_ids": [1]}),
            ("/api/visits/1/steps", {"step": "air", "against": "first"}),
        ):
            assert client.post(path, json=body).status_code == 201
        yield schemathesis.openapi.from_url(f"{url}/api/openapi.json")


OPERATIONS = [
    (path, method, mode)
    for path, operations in json.loads(describe())["paths"].items()
    for method, told in operations.items()
    for mode in GenerationMode
    if not path.endswith("/events")
    and not (path.endswith("/logo") and mode is GenerationMode.NEGATIVE)
    and (mode is GenerationMode.POSITIVE or {"parameters", "requestBody"} & set(told))
]
"""Those that take nothing, or any bytes, cannot be asked wrongly; event streams may be endless."""


@pytest.mark.parametrize(("path", "method", "mode"), OPERATIONS)
def test_no_request_breaks_an_operation(
    path: str, method: str, mode: GenerationMode, api_schema: Any
) -> None:
    @QUICK
    @given(case=api_schema[path][method].as_strategy(generation_mode=mode))
    def run(case: schemathesis.Case[Any]) -> None:
        case.call_and_validate(checks=CHECKS)

    run()


def test_no_sequence_of_requests_breaks_anything(api_schema: Any) -> None:
    machine = api_schema.exclude(path_regex="/events$").as_state_machine()
    wrong: list[str] = []
    asked: list[str] = []

    class Sequences(machine):  # type: ignore[misc,valid-type]
        def validate_response(
            self, response: Any, case: schemathesis.Case[Any], **more: Any
        ) -> None:
            asked.append(case.operation.label)
            try:
                case.validate_response(response, checks=CHECKS)
            except (Failure, FailureGroup) as failure:
                wrong.append(repr(failure))

    for number in itertools.count():
        # What is stored differs from one sequence to the next, and so do the answers drawn from;
        # Hypothesis minds that, and its round is over. What was answered is judged all the same.
        with suppress(FlakyStrategyDefinition):
            seed(number)(Sequences).run(
                settings=settings(QUICK, derandomize=False, max_examples=12, stateful_step_count=8)
            )
        if len(asked) >= _ENOUGH_REQUESTS:
            break
    assert wrong == []
    assert wrong == []
    assert len(set(asked)) > _ENOUGH_REQUESTS // 10
