"""The command line, run in the tests' own process."""

import contextlib
import io

from pale_ember.cli import main


def run_line(*words):
    """Return a command's exit status, and what it said on both ways."""
    out, err = io.StringIO(), io.StringIO()
    with contextlib.redirect_stdout(out), contextlib.redirect_stderr(err):
        try:
            status = main(words)
        except SystemExit as ended:
            status = ended.code
    return status, out.getvalue(), err.getvalue()
