#ifndef MAVIK_MAPPED_H
#define MAVIK_MAPPED_H
#include <Rcpp.h>

SEXP listed_parts(SEXP texts);
int rest_mapped();

#endif
