#ifndef MAVIK_MAPPED_H
#define MAVIK_MAPPED_H
#include <Rcpp/Lighter>
#include <string>

SEXP listed_parts(SEXP texts);
int rest_mapped();
SEXP map_values(std::string path, std::string type, double n, Rcpp::List attributes);
bool is_mapped(SEXP x);
void with_attributes(SEXP x, const Rcpp::List& attributes);
// A vector of R's `type` in a new file of the folder, to be filled at `at`; R's NULL, and no place,
// where there is no room.
SEXP map_fresh(const std::string& folder, unsigned type, R_xlen_t n, void** at);

// The elements that `at` (from 1) names, as R's subsetting gives them; `value` gives a row's.
template <class T, class Value> void pick(Value value, R_xlen_t n, SEXP at, T none, T* to) {
  const R_xlen_t size = Rf_xlength(at);
  if (TYPEOF(at) == INTSXP) {
    const int* row = INTEGER_RO(at);
    for (R_xlen_t i = 0; i < size; ++i) to[i] = row[i] == NA_INTEGER || row[i] > n ? none : value(row[i] - 1);
  } else {
    const double* row = REAL_RO(at);
    for (R_xlen_t i = 0; i < size; ++i) to[i] = !R_FINITE(row[i]) || row[i] > n ? none : value((R_xlen_t) row[i] - 1);
  }
}

#endif
