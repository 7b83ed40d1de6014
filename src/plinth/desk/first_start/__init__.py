"""What meets somebody who starts for the first time: four ways to begin, a next step, a tour."""
