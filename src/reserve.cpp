#include <Rcpp/Lighter>

// Room that R may fill before it collects anew. The bytes are never touched, so that no memory
// is taken for them, and are let go of at once.

// [[Rcpp::export]]
void reserve_room(double bytes) {
  PROTECT(Rf_allocVector(RAWSXP, (R_xlen_t) bytes));
  UNPROTECT(1);
}
