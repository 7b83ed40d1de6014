"""What solvers share: roots, errors, patience."""
