"""The bench: a lab's devices with sheets of one's own, and all that the network they make does.

What it knows of the model answer is where devices are asked for; on a learner's edition it knows nothing of it.
"""

from .bench import Bench, Packet, bench_of
from .starts import starting_sheets

__all__ = ["Bench", "Packet", "bench_of", "starting_sheets"]
