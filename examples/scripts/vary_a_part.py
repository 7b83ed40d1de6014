"""Watts over volts of the transformer, the build changed in one value: ``python vary_a_part.py BUILD.json``."""

import json
import sys

import plinth


def main(path: str) -> None:
    """Print a table of secondary volts, rail at idle and power into 8 ohm."""
    with open(path, encoding="utf-8") as file:
        document = json.load(file)
    volts = document["supply"]["transformer"]["v_secondary_rms"]
    for share in (0.8, 0.9, 1.0, 1.1):
        document["supply"]["transformer"]["v_secondary_rms"] = share * volts
        prediction = plinth.solve(plinth.Build.model_validate(document), plinth.Situation(load_ohm=8.0))
        rail, power = prediction["rail_idle_v"], prediction["clip_power_w"]
        print(f"{share * volts:5.1f} V  rails {rail.value:5.1f} V  {power.value:5.1f} W")


if __name__ == "__main__":
    main(sys.argv[1])
