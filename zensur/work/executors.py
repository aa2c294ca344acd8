"""Where papers are marked: in this process, over several, or on a cluster of Dask workers."""

from collections.abc import Iterator
from concurrent.futures import Executor, ProcessPoolExecutor
from contextlib import contextmanager
from typing import Any

SECONDS_TO_ANSWER = 10


class NoCluster(Exception):
    """The cluster cannot be used; the message says why and what to do."""


@contextmanager
def executor_for(jobs: int = 1, cluster: str | None = None) -> Iterator[Executor | None]:
    """Yield an executor, None for this process itself; raises :class:`NoCluster`.

    ``cluster`` is the address of a Dask scheduler, whose workers have this same version of Zensur installed.
    """
    if cluster is not None:
        with _on_cluster(cluster) as executor:
            yield executor
    elif jobs > 1:
        with ProcessPoolExecutor(jobs) as pool:
            yield pool
    else:
        yield None


@contextmanager
def _on_cluster(address: str) -> Iterator[Executor]:
    try:
        from distributed import Client
    except ImportError:
        raise NoCluster("Marking on a cluster needs Dask: pip install 'zensur[cluster]'.") from None
    try:
        client: Any = Client(address, timeout=SECONDS_TO_ANSWER, set_as_default=False)  # type: ignore[no-untyped-call]
    except (OSError, ValueError) as error:
        raise NoCluster(
            f"No Dask scheduler answers at {address}: {error or 'it did not answer in time'}."
        ) from None
    with client:
        if not client.scheduler_info()["workers"]:
            raise NoCluster(
                f"The Dask scheduler at {address} has no workers: start some with dask worker {address}."
            )
        yield client.get_executor()
