#include <Rcpp/Lighter>
#include <R_ext/Altrep.h>
#include <algorithm>
#include <cstring>
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

Looked places_of(SEXP index) {
  Looked out;
  out.n = Rf_xlength(index);
  if (TYPEOF(index) == RAWSXP) out.narrow = RAW_RO(index);
  else out.wide = INTEGER_RO(index);
  return out;
}

Looked parts_of(SEXP x) {
  Looked out = places_of(index_of(x));
  out.table = table_of(x);
  return out;
}

R_xlen_t length_of(SEXP x) { return Rf_xlength(index_of(x)); }

// What differs between integers and doubles.
template <class T> struct Kind;
template <> struct Kind<int> {
  static constexpr unsigned type = INTSXP;
  static const int* at(SEXP x) { return INTEGER_RO(x); }
  static int none() { return NA_INTEGER; }
  static int of_place(int place) { return place; }
};
template <> struct Kind<double> {
  static constexpr unsigned type = REALSXP;
  static const double* at(SEXP x) { return REAL_RO(x); }
  static double none() { return NA_REAL; }
  static double of_place(int place) { return place; }
};

// Calls `act` with a function from row to value.
template <class T, class Act> void with_values(SEXP x, Act act) {
  if (R_altrep_data2(x) != R_NilValue) {
    const T* at = Kind<T>::at(R_altrep_data2(x));
    act([at](R_xlen_t i) -> T { return at[i]; });
    return;
  }
  const Looked of = parts_of(x);
  const T* table = of.table == R_NilValue ? nullptr : Kind<T>::at(of.table);
  with_places(of, [&](auto place) { act([=](R_xlen_t i) -> T {
    const int at = place(i);
    return at == 0 ? Kind<T>::none() : table ? table[at - 1] : Kind<T>::of_place(at);
  }); });
}

template <class T> T value_at(SEXP x, R_xlen_t i) {
  T out = 0;
  with_values<T>(x, [&](auto value) { out = value(i); });
  return out;
}

template <class T> R_xlen_t region_of(SEXP x, R_xlen_t from, R_xlen_t n, T* to) {
  n = std::min(n, length_of(x) - from);
  with_values<T>(x, [&](auto value) { for (R_xlen_t i = 0; i < n; ++i) to[i] = value(from + i); });
  return n;
}

template <class T> SEXP copy_of(SEXP x, Rboolean) {
  SEXP out = PROTECT(Rf_allocVector(Kind<T>::type, length_of(x)));
  region_of<T>(x, 0, length_of(x), static_cast<T*>(DATAPTR(out)));
  UNPROTECT(1);
  return out;
}

template <class T> SEXP written_out(SEXP x) {
  if (R_altrep_data2(x) != R_NilValue) return R_altrep_data2(x);
  const R_xlen_t n = length_of(x);
  void* at = nullptr;
  SEXP out = folder_of(x) == R_NilValue ? R_NilValue : map_fresh(CHAR(STRING_ELT(folder_of(x), 0)), Kind<T>::type, n, &at);
  PROTECT(out);
  if (at) region_of<T>(x, 0, n, static_cast<T*>(at));
  else out = copy_of<T>(x, FALSE);
  R_set_altrep_data2(x, out);
  UNPROTECT(1);
  return out;
}

template <class T> void* address_of(SEXP x, Rboolean writable) {
  SEXP out = written_out<T>(x);
  if (writable) SET_VECTOR_ELT(R_altrep_data1(x), 3, out);
  return const_cast<void*>(DATAPTR_RO(out));
}

const void* address_or_null(SEXP x) { return R_altrep_data2(x) == R_NilValue ? nullptr : DATAPTR_RO(R_altrep_data2(x)); }

template <class T> SEXP subset_of(SEXP x, SEXP at, SEXP) {
  SEXP out = PROTECT(Rf_allocVector(Kind<T>::type, Rf_xlength(at)));
  with_values<T>(x, [&](auto value) { pick(value, length_of(x), at, Kind<T>::none(), static_cast<T*>(DATAPTR(out))); });
  UNPROTECT(1);
  return out;
}

template <class T> void altvec_methods(R_altrep_class_t of) {
  R_set_altrep_Length_method(of, length_of);
  R_set_altrep_Duplicate_method(of, copy_of<T>);
  R_set_altvec_Dataptr_method(of, address_of<T>);
  R_set_altvec_Dataptr_or_null_method(of, address_or_null);
  R_set_altvec_Extract_subset_method(of, subset_of<T>);
}

}

// [[Rcpp::init]]
void begin_looked(DllInfo* dll) {
  whole_class = R_make_altinteger_class("mavik_looked_whole", "mavik", dll);
  altvec_methods<int>(whole_class);
  R_set_altinteger_Elt_method(whole_class, value_at<int>);
  R_set_altinteger_Get_region_method(whole_class, region_of<int>);
  number_class = R_make_altreal_class("mavik_looked_number", "mavik", dll);
  altvec_methods<double>(number_class);
  R_set_altreal_Elt_method(number_class, value_at<double>);
  R_set_altreal_Get_region_method(number_class, region_of<double>);
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
  return look_into(index, out) && out.table == R_NilValue ? out : places_of(index);
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

// Whether some row has none.

// [[Rcpp::export]]
bool any_gap(SEXP index) {
  if (TYPEOF(index) != INTSXP) return is_true(any(is_na(NumericVector(index))));
  const Looked of = places_in(index);
  if (of.narrow) return of.n > 0 && std::memchr(of.narrow, 0, (size_t) of.n);
  return std::any_of(of.wide, of.wide + of.n, [](int place) { return place == NA_INTEGER; });
}

// Whether rows are all of `n`, in their order.

// [[Rcpp::export]]
bool are_all_rows(SEXP rows, double n) {
  if (TYPEOF(rows) != INTSXP || (double) Rf_xlength(rows) != n) return false;
  const Looked of = places_in(rows);
  bool out = true;
  with_places(of, [&](auto row) { for (R_xlen_t i = 0; i < of.n && out; ++i) out = row(i) == i + 1; });
  return out;
}

// Which of `size` places occur in the chosen rows (from 1; all if NULL).

// [[Rcpp::export]]
LogicalVector places_met(SEXP index, Nullable<IntegerVector> rows, int size) {
  const Looked of = places_in(index);
  LogicalVector out(size);
  if (rows.isNull()) {
    const std::vector<int> count = count_places(of, size);
    for (int k = 0; k < size; ++k) out[k] = count[k + 1] > 0;
    return out;
  }
  const int* at = INTEGER_RO(rows.get());
  const R_xlen_t n = Rf_xlength(rows.get());
  with_places(of, [&](auto place) { for (R_xlen_t i = 0; i < n; ++i) {
    const int here = place(at[i] - 1);
    if (here > 0) out[here - 1] = TRUE;
  } });
  return out;
}
