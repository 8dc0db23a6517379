library(testthat)
library(mavik)

test_check("mavik")
