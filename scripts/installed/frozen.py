"""The program within a package that brings its own Python: also what its own processes are started with (``-m``)."""

import multiprocessing
import runpy
import sys

from plinth.cli.main import main

if __name__ == "__main__":
    multiprocessing.freeze_support()
    # Processes of Plinth's own are started as ``sys.executable -m MODULE``, which here is this program.
    if sys.argv[1:2] == ["-m"] and len(sys.argv) > 2 and sys.argv[2].split(".")[0] == "plinth":
        del sys.argv[1]
        runpy.run_module(sys.argv.pop(1), run_name="__main__", alter_sys=True)
    else:
        sys.exit(main())
