"""The OpenAPI document against the real server: whatever is sent, never a 5xx and always a documented answer."""

from __future__ import annotations

from collections.abc import Iterator

import pytest
import schemathesis
from hypothesis import HealthCheck, Phase, given, settings
from schemathesis.checks import not_a_server_error
from schemathesis.specs.openapi.checks import response_schema_conformance

from .. import films
from ..service import PATIENCE_S, Served

USUAL = settings(
    max_examples=5, deadline=None, derandomize=True, suppress_health_check=list(HealthCheck), phases=(Phase.explicit, Phase.generate),
)
PARTS = 4
QUEUES_WORK = ("/pack", "/rehearse", "/probe", ".png", "/picture", "/film")


@pytest.fixture(scope="module")
def operations(served: Served) -> list:
    schema = schemathesis.openapi.from_url(f"{served.url}/api/openapi.json", headers=served.let_in, timeout=PATIENCE_S)
    return [result.ok() for result in schema.get_all_operations()]


def test_every_operation_is_tried(operations) -> None:
    assert len(operations) >= 26


@pytest.fixture(scope="module")
def own(served: Served) -> Iterator[dict]:
    """A master that nothing else is tried on, since every request may change it; what was set for all is set back."""
    films.film(served.places.inbox / "Anything.mp4", width=160, height=90, seconds=1)
    yield served.master("Anything.mp4")
    served.http.put("/machine", json={"line": {}, "probing": False}).raise_for_status()


@pytest.mark.parametrize("part", range(PARTS))
def test_no_request_makes_it_stumble(operations, served: Served, own: dict, part: int) -> None:
    for operation in operations[part::PARTS]:

        @USUAL
        @given(case=operation.as_strategy())
        def tried(case) -> None:
            if (case.method, case.path) == ("POST", "/api/machine/benchmark"):
                return  # it takes nothing, and would measure for half a minute
            parameters = case.path_parameters or {}
            if "master_id" in parameters and case.method != "DELETE" and not case.path.endswith(QUEUES_WORK):
                parameters["master_id"] = own["id"]
            if "parcel_id" in parameters and not case.path.endswith(QUEUES_WORK):
                lanes = served.http.get(f"/masters/{own['id']}/lanes").json()["lanes"]
                parameters["parcel_id"] = lanes[0]["lane"]["parcel"]["id"] if lanes else "none"
            answer = case.call(headers=served.let_in, timeout=PATIENCE_S)
            case.validate_response(answer, checks=[not_a_server_error, response_schema_conformance])

        tried()
