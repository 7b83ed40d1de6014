"""What is drawn, as plain data: sketches as marks on a sheet, plots as curves; whoever shows them paints them."""
