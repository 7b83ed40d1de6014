"""From a build in a situation to figures with uncertainty, their origin, and the waveforms behind them."""
