"""A worker: a process that does one piece of work after another, each within bounds, as they come in on its input.

It is started by :mod:`.workers` and ends with its input. A piece is a function of this package with its arguments; what
the function returns is the answer. A piece that needs too much processor time ends the worker by the system's hand.
"""

import os
import pickle
import resource
import sys
import time
from typing import BinaryIO

MOST_BYTES = 1 << 30
"""So much memory a worker may have (RLIMIT_DATA)."""
MEMORY = "memory"
"""What a worker says in place of an answer before it ends for want of memory."""


def serve(pieces: BinaryIO, answers: BinaryIO) -> None:
    """Do pieces as they come: seconds of processor time, and the pickled function with its arguments.

    Each is answered with whether it was done, and what it gave or why it was not.
    """
    while True:
        try:
            seconds, piece = pickle.load(pieces)
        except EOFError:
            return
        _, hard = resource.getrlimit(resource.RLIMIT_CPU)
        resource.setrlimit(resource.RLIMIT_CPU, (int(time.process_time()) + 1 + seconds, hard))
        try:
            function, arguments = pickle.loads(piece)
            answer = True, function(*arguments)
        except MemoryError:
            answer = False, MEMORY
        except Exception as error:
            answer = False, f"{type(error).__name__}: {error}"
        try:
            answers.write(pickle.dumps(answer))
            answers.flush()
        except BrokenPipeError:  # whoever asked is gone
            os._exit(0)
        if answer == (False, MEMORY):
            return


def main() -> None:
    """Serve on standard input and output, behind everything else on this machine."""
    answers = os.fdopen(os.dup(sys.stdout.fileno()), "wb")
    os.dup2(sys.stderr.fileno(), sys.stdout.fileno())  # whatever is printed is no answer
    os.nice(5)
    resource.setrlimit(resource.RLIMIT_DATA, (MOST_BYTES, MOST_BYTES))
    resource.setrlimit(resource.RLIMIT_CORE, (0, 0))
    serve(sys.stdin.buffer, answers)


if __name__ == "__main__":
    main()
