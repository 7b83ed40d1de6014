"""Power with its spread, and the limits that are close: ``python solve_a_build.py BUILD.json``."""

import sys

import plinth


def main(path: str) -> None:
    """Print power into two loads, and every margin that is not clear."""
    build = plinth.read_build(path)
    for ohms in (8.0, 4.0):
        prediction = plinth.solve(build, plinth.Situation(load_ohm=ohms))
        power = prediction["clip_power_w"]
        print(f"{ohms:g} ohm: {power.value:.1f} W +-{2.0 * power.u:.1f} W at the onset of clipping")
        for margin in plinth.margins(prediction):
            if margin.state is not plinth.State.CLEAR:
                print(f"  {margin.state.value}: {margin.label}")


if __name__ == "__main__":
    main(sys.argv[1])
