"""The program: runs a command line, and turns what goes wrong into a message and an exit status."""

import gc
import os
import sys
from collections.abc import Sequence

from ombix.console.environment import Environment, Status, from_process
from ombix.core.errors import OmbixError

_LOOK_UPS = ("what", "how")


def run(arguments: Sequence[str], environment: Environment) -> Status:
    """Run one command line in an environment and return its exit status; never raises for what a user can type."""
    try:
        if plain := _plain_look_up(arguments):
            from ombix.work.look import lookup_console

            ask = lookup_console.what if arguments[0] == "what" else lookup_console.how
            return ask(environment, lookup_console.Asked(*plain))
        if len(arguments) == 3 and arguments[:2] == ["git", "text"]:
            from ombix.work.versions.git_text_console import print_plain

            return print_plain(environment, arguments[2])
        from ombix.cli.program import call

        return call(arguments, environment)
    except OmbixError as error:
        environment.show_error(error)
        return Status(error.status)
    except BrokenPipeError:
        return Status.FINE
    except KeyboardInterrupt:
        environment.say("stopped")
        return Status.INTERRUPTED
    except UnicodeEncodeError:
        environment.say("error: a word of the call, or a name of a file, has bytes in it that are no text")
        environment.say("  Write it in UTF-8.")
        return Status.WRONG
    except RecursionError:
        environment.say("error: the input is nested too deeply")
        return Status.WRONG
    except OSError as error:
        environment.say(f"error: {error.strerror or error}" + (f": {error.filename}" if error.filename else ""))
        return Status.OUTSIDE
    except MemoryError:
        environment.say("error: there is not enough memory for this")
        return Status.OUTSIDE
    except Exception:
        from ombix.cli.faults import report

        environment.say(report(environment.folders.state))
        return Status.FAULT


def _plain_look_up(arguments: Sequence[str]) -> tuple[str, str] | None:
    """The keys or words that are looked up, and the editor, where there is no other option: then nothing has to be parsed."""
    if len(arguments) < 2 or arguments[0] not in _LOOK_UPS or "_OMBIX_COMPLETE" in os.environ:
        return None
    words, editor = list(arguments[1:]), ""
    if "--editor" in words[:-1]:
        at = words.index("--editor")
        editor = words[at + 1]
        del words[at : at + 2]
    if not words or editor.startswith("-") or any(word.startswith("-") for word in words):
        return None
    return " ".join(words), editor


def main() -> None:
    """The entry point."""
    # A run is short, and most of what it makes stays: looking for garbage while modules are imported takes a twentieth.
    gc.set_threshold(100_000)
    try:
        environment = from_process()
    except OmbixError as error:
        sys.stderr.write(f"error: {error.what}\n  {error.advice}\n")
        sys.exit(error.status)
    _end_in_order()
    status = run(sys.argv[1:], environment)
    try:
        sys.stdout.flush()
    except OSError as error:
        # Nobody reads any more, which is no error; or the disk is full.
        os.dup2(os.open(os.devnull, os.O_WRONLY), 1)
        if not isinstance(error, BrokenPipeError):
            environment.say(f"error: the output cannot be written: {error.strerror}")
            status = Status.OUTSIDE
    except ValueError:
        pass  # it was closed: a server closes its streams when it is told to end
    gc.freeze()  # all goes with the process: the interpreter need not look through it first
    sys.exit(int(status))


def _end_in_order() -> None:
    """Have what stops the process from outside run through what is open, like a folder that is to be deleted."""
    import signal

    def stop(number: int, frame: object) -> None:
        raise SystemExit(128 + number)

    for name in ("SIGTERM", "SIGHUP"):
        number = getattr(signal, name, None)
        if number is not None and signal.getsignal(number) is signal.SIG_DFL:
            signal.signal(number, stop)
