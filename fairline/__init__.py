"""Fair Line: works out and judges a ductless mini-split job."""
