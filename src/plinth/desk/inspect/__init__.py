"""The Inspect page: what is looked at of this build before first power."""
