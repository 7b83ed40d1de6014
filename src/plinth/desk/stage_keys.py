"""What the stages are called in code."""

PLAN, INSPECT, POWER_UP, MEASURE, DECIDE, DIARY = "plan", "inspect", "power_up", "measure", "decide", "diary"
