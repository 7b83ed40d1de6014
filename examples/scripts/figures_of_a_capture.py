"""Level and distortion of a recording: ``python figures_of_a_capture.py TONE.wav VOLTS``.

``VOLTS`` is what full scale of the recording stands for.
"""

import sys

import plinth


def main(path: str, volts: float) -> None:
    """Print every figure of the first channel, with its unit."""
    analysis = plinth.analyse(path, volts_per_full_scale=(volts,))
    for figure in analysis.channels[0].figures:
        print(f"{figure.name} {figure.value:.6g} {figure.unit} +-{figure.spread:.2g}: {figure.definition}")


if __name__ == "__main__":
    main(sys.argv[1], float(sys.argv[2]))
