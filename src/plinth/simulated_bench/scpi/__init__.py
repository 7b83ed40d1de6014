"""Messages, headers, parameters and status of SCPI-1999 and IEEE 488.2."""
