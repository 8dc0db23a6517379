#ifndef MAVIK_MAPPED_H
#define MAVIK_MAPPED_H
#include <Rcpp.h>

bool is_mapped(SEXP x);
SEXP listed_parts(SEXP texts);
int rest_mapped();

#endif
