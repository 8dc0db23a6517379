#ifndef MAVIK_MAPPED_H
#define MAVIK_MAPPED_H
#include <Rcpp.h>
#include <string>

SEXP listed_parts(SEXP texts);
int rest_mapped();
bool is_mapped(SEXP x);
void with_attributes(SEXP x, const Rcpp::List& attributes);
// Integers (`whole`) or doubles in a new file of the folder, to be filled at `at`; R's NULL
// where there is no room.
SEXP map_fresh(const std::string& folder, bool whole, R_xlen_t n, void** at);

#endif
