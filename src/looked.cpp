#include <Rcpp.h>
#include <R_ext/Altrep.h>
#include <algorithm>
#include <string>
#include <vector>
#include "looked.h"
#include "mapped.h"
using namespace Rcpp;

// Columns of few distinct values: R sees a plain vector, and what is held is each row's place
// in a table, a byte where that is enough. Who asks for an address gets the values written
// out, in a file where the column's own folder is known, and they are kept with the column.
// Such a vector is not to be written to: what would change it takes a copy first. Who asks for an
// address to write to all the same has a plain vector from then on.

namespace {

R_altrep_class_t whole_class, number_class;

SEXP index_of(SEXP x) { return VECTOR_ELT(R_altrep_data1(x), 0); }
SEXP table_of(SEXP x) { return VECTOR_ELT(R_altrep_data1(x), 1); }
SEXP folder_of(SEXP x) { return VECTOR_ELT(R_altrep_data1(x), 2); }
bool may_differ(SEXP x) { return VECTOR_ELT(R_altrep_data1(x), 3) != R_NilValue; }

bool is_looked(SEXP x) {
  if (!ALTREP(x)) return false;
  return TYPEOF(x) == INTSXP ? R_altrep_inherits(x, whole_class) : TYPEOF(x) == REALSXP && R_altrep_inherits(x, number_class);
}

Looked parts_of(SEXP x) {
  Looked out;
  SEXP index = index_of(x);
  out.n = Rf_xlength(index);
  if (TYPEOF(index) == RAWSXP) out.narrow = RAW_RO(index);
  else out.wide = INTEGER_RO(index);
  out.table = table_of(x);
  return out;
}

R_xlen_t length_of(SEXP x) { return Rf_xlength(index_of(x)); }

// Calls `act` with a function from row to value.
template <class Act> void whole_values(SEXP x, Act act) {
  if (R_altrep_data2(x) != R_NilValue) {
    const int* at = INTEGER_RO(R_altrep_data2(x));
    act([at](R_xlen_t i) -> int { return at[i]; });
    return;
  }
  const Looked of = parts_of(x);
  const int* table = of.table == R_NilValue ? nullptr : INTEGER_RO(of.table);
  with_places(of, [&](auto place) { act([=](R_xlen_t i) -> int {
    const int at = place(i);
    return at == 0 ? NA_INTEGER : table ? table[at - 1] : at;
  }); });
}

template <class Act> void number_values(SEXP x, Act act) {
  if (R_altrep_data2(x) != R_NilValue) {
    const double* at = REAL_RO(R_altrep_data2(x));
    act([at](R_xlen_t i) -> double { return at[i]; });
    return;
  }
  const Looked of = parts_of(x);
  const double* table = REAL_RO(of.table);
  with_places(of, [&](auto place) { act([=](R_xlen_t i) -> double {
    const int at = place(i);
    return at == 0 ? NA_REAL : table[at - 1];
  }); });
}

int whole_at(SEXP x, R_xlen_t i) {
  int out = 0;
  whole_values(x, [&](auto value) { out = value(i); });
  return out;
}

double number_at(SEXP x, R_xlen_t i) {
  double out = 0;
  number_values(x, [&](auto value) { out = value(i); });
  return out;
}

R_xlen_t whole_region(SEXP x, R_xlen_t from, R_xlen_t n, int* to) {
  n = std::min(n, length_of(x) - from);
  whole_values(x, [&](auto value) { for (R_xlen_t i = 0; i < n; ++i) to[i] = value(from + i); });
  return n;
}

R_xlen_t number_region(SEXP x, R_xlen_t from, R_xlen_t n, double* to) {
  n = std::min(n, length_of(x) - from);
  number_values(x, [&](auto value) { for (R_xlen_t i = 0; i < n; ++i) to[i] = value(from + i); });
  return n;
}

SEXP whole_copy(SEXP x, Rboolean) {
  SEXP out = PROTECT(Rf_allocVector(INTSXP, length_of(x)));
  whole_region(x, 0, length_of(x), INTEGER(out));
  UNPROTECT(1);
  return out;
}

SEXP number_copy(SEXP x, Rboolean) {
  SEXP out = PROTECT(Rf_allocVector(REALSXP, length_of(x)));
  number_region(x, 0, length_of(x), REAL(out));
  UNPROTECT(1);
  return out;
}

SEXP written_out(SEXP x) {
  if (R_altrep_data2(x) != R_NilValue) return R_altrep_data2(x);
  const bool whole = TYPEOF(x) == INTSXP;
  const R_xlen_t n = length_of(x);
  SEXP out = R_NilValue;
  void* at = nullptr;
  if (folder_of(x) != R_NilValue) out = map_fresh(CHAR(STRING_ELT(folder_of(x), 0)), whole, n, &at);
  PROTECT(out);
  if (out == R_NilValue) {
    UNPROTECT(1);
    out = PROTECT(Rf_allocVector(whole ? INTSXP : REALSXP, n));
    at = DATAPTR(out);
  }
  if (whole) whole_region(x, 0, n, static_cast<int*>(at));
  else number_region(x, 0, n, static_cast<double*>(at));
  R_set_altrep_data2(x, out);
  UNPROTECT(1);
  return out;
}

void* address_of(SEXP x, Rboolean writable) {
  SEXP out = written_out(x);
  if (writable) SET_VECTOR_ELT(R_altrep_data1(x), 3, out);
  return const_cast<void*>(DATAPTR_RO(out));
}
const void* address_or_null(SEXP x) { return R_altrep_data2(x) == R_NilValue ? nullptr : DATAPTR_RO(R_altrep_data2(x)); }

// As R's subsetting: `at` counts from 1, what lies beyond is a gap.
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

SEXP whole_subset(SEXP x, SEXP at, SEXP) {
  SEXP out = PROTECT(Rf_allocVector(INTSXP, Rf_xlength(at)));
  whole_values(x, [&](auto value) { pick(value, length_of(x), at, NA_INTEGER, INTEGER(out)); });
  UNPROTECT(1);
  return out;
}

SEXP number_subset(SEXP x, SEXP at, SEXP) {
  SEXP out = PROTECT(Rf_allocVector(REALSXP, Rf_xlength(at)));
  number_values(x, [&](auto value) { pick(value, length_of(x), at, NA_REAL, REAL(out)); });
  UNPROTECT(1);
  return out;
}

void altvec_methods(R_altrep_class_t of) {
  R_set_altrep_Length_method(of, length_of);
  R_set_altvec_Dataptr_method(of, address_of);
  R_set_altvec_Dataptr_or_null_method(of, address_or_null);
}

}

// [[Rcpp::init]]
void begin_looked(DllInfo* dll) {
  whole_class = R_make_altinteger_class("mavik_looked_whole", "mavik", dll);
  altvec_methods(whole_class);
  R_set_altrep_Duplicate_method(whole_class, whole_copy);
  R_set_altvec_Extract_subset_method(whole_class, whole_subset);
  R_set_altinteger_Elt_method(whole_class, whole_at);
  R_set_altinteger_Get_region_method(whole_class, whole_region);
  number_class = R_make_altreal_class("mavik_looked_number", "mavik", dll);
  altvec_methods(number_class);
  R_set_altrep_Duplicate_method(number_class, number_copy);
  R_set_altvec_Extract_subset_method(number_class, number_subset);
  R_set_altreal_Elt_method(number_class, number_at);
  R_set_altreal_Get_region_method(number_class, number_region);
}

bool look_into(SEXP x, Looked& out) {
  if (!is_looked(x) || may_differ(x)) return false;
  out = parts_of(x);
  return true;
}

SEXP rests_on(SEXP x) {
  return !is_looked(x) ? R_NilValue : may_differ(x) ? R_altrep_data2(x) : index_of(x);
}

Looked places_in(SEXP index) {
  Looked out;
  if (look_into(index, out) && out.table == R_NilValue) return out;
  out = Looked();
  out.n = Rf_xlength(index);
  if (TYPEOF(index) == RAWSXP) out.narrow = RAW_RO(index);
  else out.wide = INTEGER_RO(index);
  return out;
}

// A vector of the values that stand in `table` (integers or doubles; NULL: the places are the
// values) at the places `index`: bytes (0 a gap) or integers, or a vector of places.

// [[Rcpp::export]]
SEXP looked_up(SEXP index, SEXP table, SEXP folder, List attributes) {
  if (is_looked(index) && !may_differ(index) && table_of(index) == R_NilValue) index = index_of(index);
  SEXP held = PROTECT(Rf_allocVector(VECSXP, 4));
  SET_VECTOR_ELT(held, 0, index);
  SET_VECTOR_ELT(held, 1, table);
  SET_VECTOR_ELT(held, 2, folder);
  MARK_NOT_MUTABLE(index);
  if (table != R_NilValue) MARK_NOT_MUTABLE(table);
  SEXP out = PROTECT(R_new_altrep(TYPEOF(table) == REALSXP ? number_class : whole_class, held, R_NilValue));
  with_attributes(out, attributes);
  UNPROTECT(2);
  return out;
}

// Of such a vector the places, the table and the folder; NULL of any other.

// [[Rcpp::export]]
SEXP looked_parts(SEXP x) {
  if (!is_looked(x) || may_differ(x)) return R_NilValue;
  return List::create(_["index"] = index_of(x), _["table"] = table_of(x), _["folder"] = folder_of(x));
}

// Whether two columns are looked up by the same places.

// [[Rcpp::export]]
bool same_places(SEXP x, SEXP y) {
  return is_looked(x) && is_looked(y) && !may_differ(x) && !may_differ(y) && index_of(x) == index_of(y);
}

// Whether no row has another number than 0.

// [[Rcpp::export]]
bool only_zero(SEXP x) {
  bool out = true;
  const R_xlen_t n = Rf_xlength(x);
  with_wholes(x, [&](auto value) { for (R_xlen_t i = 0; i < n && out; ++i) out = value(i) == 0; });
  return out;
}

// Which of `size` places occur in the chosen rows (from 1; all if NULL).

// [[Rcpp::export]]
LogicalVector places_met(SEXP index, Nullable<IntegerVector> rows, int size) {
  const Looked of = places_in(index);
  LogicalVector out(size);
  const int* at = rows.isNull() ? nullptr : INTEGER_RO(rows.get());
  const R_xlen_t n = rows.isNull() ? of.n : Rf_xlength(rows.get());
  with_places(of, [&](auto place) { for (R_xlen_t i = 0; i < n; ++i) {
    const int here = place(at ? at[i] - 1 : i);
    if (here > 0) out[here - 1] = TRUE;
  } });
  return out;
}
