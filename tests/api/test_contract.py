"""Every operation with made-up requests: no answer of 5xx, none that its description lacks."""

from __future__ import annotations

import itertools
from collections.abc import Iterator
from contextlib import suppress
from typing import Any

import pytest
import schemathesis
from bench.requests import api_with_something_of_everything, ask, faults_of, operations
from hypothesis import HealthCheck, Phase, seed, settings
from hypothesis.errors import FlakyStrategyDefinition
from schemathesis.core.failures import AcceptedNegativeData
from schemathesis.generation import GenerationMode
from schemathesis.openapi.checks import RejectedPositiveData

QUICK = settings(
    max_examples=6,
    deadline=None,
    derandomize=True,
    database=None,
    phases=[Phase.generate],
    suppress_health_check=list(HealthCheck),
)

_ENOUGH_REQUESTS = 100
_FORM = (RejectedPositiveData, AcceptedNegativeData)
"""What is taken and refused is judged by operation, where the same is drawn every time; whether a
drawn sequence makes sense no description can tell."""


@pytest.fixture(scope="module")
def api_schema(tmp_path_factory: pytest.TempPathFactory) -> Iterator[Any]:
    """The description of a served application with something of everything in it."""
    with api_with_something_of_everything(tmp_path_factory.mktemp("fuzzed")) as found:
        yield found


@pytest.mark.long
@pytest.mark.parametrize("operation", operations(), ids=str)
def test_no_request_breaks_an_operation(
    operation: tuple[str, str, GenerationMode], api_schema: Any
) -> None:
    assert ask(api_schema, operation, many=6) == []


@pytest.mark.long
def test_no_sequence_of_requests_breaks_anything(api_schema: Any) -> None:
    machine = api_schema.exclude(path_regex="/events$").as_state_machine()
    wrong: list[str] = []
    asked: list[str] = []

    class Sequences(machine):  # type: ignore[misc,valid-type]
        def validate_response(
            self, response: Any, case: schemathesis.Case[Any], **more: Any
        ) -> None:
            asked.append(case.operation.label)
            wrong.extend(
                repr(fault) for fault in faults_of(case, response) if not isinstance(fault, _FORM)
            )

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
    assert len(set(asked)) > _ENOUGH_REQUESTS // 10
