"""A Dask cluster that runs the chunks of a sweep (docs/sweeps.md)."""

from __future__ import annotations

import asyncio
from collections.abc import Iterator
from contextlib import contextmanager
from typing import Any

from cinetica import __version__
from cinetica.files.reading import Refused
from cinetica.files.sweep_table import EXTRA
from cinetica.reading.plan import Plan, run_elsewhere

TIMEOUT = 5.0


def version_here() -> str:
    """The version that a worker reports."""
    return __version__


class Cluster:
    """A connection to a scheduler."""

    def __init__(self, client: Any) -> None:
        self._client = client
        self._sent: tuple[Plan, Any] | None = None

    @property
    def cores(self) -> int:
        """The cores of all workers."""
        return max(1, sum(self._client.nthreads().values()))

    def submit(self, planned: Plan, part: tuple[int, int]) -> Any:
        """Send a chunk; the plan goes to the scheduler once.

        The plan is the result of a task, not scattered data: if the workers that hold it are lost, the scheduler
        computes it again. Scattered data would be gone, even if it was sent to all of them, since the scheduler drops
        extra copies.
        """
        if self._sent is None or self._sent[0] is not planned:
            self._sent = (planned, self._client.submit(bytes, planned.packed(), pure=False, retries=2))
        return self._client.submit(run_elsewhere, self._sent[1], *part, pure=False, retries=2)

    def result(self, future: Any) -> Any:
        """Wait for a chunk; Refused, with the worker's message, if it keeps failing."""
        from distributed import CancelledError, KilledWorker

        try:
            return future.result()
        except KilledWorker as error:
            raise Refused([f"The workers of the cluster end while they run a chunk: {error}."]) from error
        except CancelledError as error:
            raise Refused(["The connection to the scheduler is lost."]) from error


async def _ask(address: str) -> None:
    """Ask the scheduler to identify itself; the client would wait forever for one that accepts but never answers."""
    from distributed import rpc

    async with rpc(address) as scheduler:
        await asyncio.wait_for(scheduler.identity(), TIMEOUT)


@contextmanager
def connected(address: str) -> Iterator[Cluster]:
    """Connect to a scheduler; Refused if it is unreachable, has no workers, or one of another version."""
    try:
        from distributed import Client
    except ImportError:
        raise Refused([f"A cluster needs Dask; {EXTRA}."]) from None
    import logging

    logging.getLogger("distributed").setLevel(logging.CRITICAL)
    try:
        asyncio.run(_ask(address))
        client = Client(address, timeout=TIMEOUT, set_as_default=False)
    except (OSError, ValueError, TimeoutError) as error:
        raise Refused(
            [f"There is no scheduler at {address}: {str(error).splitlines()[0] if str(error) else 'no answer'}"]
        ) from None
    try:
        if not client.nthreads():
            raise Refused([f"The scheduler at {address} has no workers: start some with: dask worker {address}"])
        versions = client.run(version_here)
        others = [f"{worker} has {version}" for worker, version in versions.items() if version != __version__]
        if others:
            raise Refused([f"This is Cinetica {__version__}; {'; '.join(others)}. Bring them to the same version."])
        yield Cluster(client)
    finally:
        client.close(timeout=TIMEOUT)
