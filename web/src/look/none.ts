// Stands for Element Plus' style sheets in unit tests, which look at no pixels.
export {}
