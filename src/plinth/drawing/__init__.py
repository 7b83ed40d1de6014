"""Small drawings as marks on a sheet, of what is looked at or wired; whoever shows them paints them."""
