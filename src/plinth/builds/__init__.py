"""What a build is made of: parts, the build that joins them, and the situation it is looked at in."""
