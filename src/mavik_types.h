// What the generated RcppExports.cpp includes: Rcpp without modules, which takes half the
// time to compile.
#ifndef MAVIK_TYPES_H
#define MAVIK_TYPES_H

#include <Rcpp/Lighter>

#endif
