#include <Rcpp/Lighter>
#include <cstdint>
#include <cstring>
#include <vector>
#include "looked.h"
using namespace Rcpp;

// Columns of few distinct values in a byte a row.

namespace {

// Up to 255 distinct values (by their bits) in the order of their appearance, from 1.
template <class T, class Bits> class Distinct {
  struct Slot { Bits bits; uint8_t place; };
  std::vector<Slot> slots = std::vector<Slot>(1024, Slot{0, 0});
public:
  std::vector<T> values;
  // 0 where there is no more room.
  uint8_t place(T value) {
    Bits bits;
    std::memcpy(&bits, &value, sizeof(T));
    for (size_t at = (size_t) (((uint64_t) bits * 0x9E3779B97F4A7C15ULL) >> 54);; at = (at + 1) & 1023) {
      Slot& slot = slots[at];
      if (slot.place && slot.bits == bits) return slot.place;
      if (slot.place) continue;
      if (values.size() == 255) return 0;
      values.push_back(value);
      slot = Slot{bits, (uint8_t) values.size()};
      return slot.place;
    }
  }
};

bool is_gap(int value) { return value == NA_INTEGER; }
bool is_gap(double value) { return ISNA(value); }
// What is no number and no gap either stays as it is.
bool is_odd(int) { return false; }
bool is_odd(double value) { return std::isnan(value) && !ISNA(value); }

template <class T, class Bits> SEXP narrowed(const T* from, R_xlen_t n, std::vector<T>& known) {
  Distinct<T, Bits> distinct;
  RawVector out = no_init(n);
  Rbyte* to = out.begin();
  for (R_xlen_t i = 0; i < n; ++i) {
    if (is_gap(from[i])) { to[i] = 0; continue; }
    to[i] = is_odd(from[i]) ? 0 : distinct.place(from[i]);
    if (to[i] == 0) return R_NilValue;
  }
  known = distinct.values;
  return out;
}

// Places in a long table of few values become places in a short one.
template <class T, class Bits> SEXP shortened(const Looked& of, const T* table, std::vector<T>& known) {
  std::vector<T> values(table, table + of.size());
  std::vector<T> met;
  const Shield<SEXP> through(narrowed<T, Bits>(values.data(), of.size(), met));
  if (Rf_isNull(through)) return R_NilValue;
  std::vector<Rbyte> place(of.size() + 1);
  std::copy(RAW(through), RAW(through) + of.size(), place.begin() + 1);
  RawVector out = no_init(of.n);
  Rbyte* to = out.begin();
  for (R_xlen_t i = 0; i < of.n; ++i) to[i] = place[of.wide[i] == NA_INTEGER ? 0 : of.wide[i]];
  known = met;
  return out;
}

template <class T, class Bits, class Table> SEXP parts_of(SEXP x, const T* (*values)(SEXP)) {
  Looked of;
  std::vector<T> known;
  const bool looked = look_into(x, of);
  if (looked && (of.narrow || Rf_isNull(of.table))) return R_NilValue;
  const Shield<SEXP> index(looked ? shortened<T, Bits>(of, values(of.table), known) : narrowed<T, Bits>(values(x), Rf_xlength(x), known));
  if (Rf_isNull(index)) return R_NilValue;
  return List::create(_["index"] = index, _["table"] = Table(known.begin(), known.end()));
}

}

// The place of each row's value (bytes, 0 for a gap) in the table of those that occur; NULL where
// they are more than 255, or where it is such a column already.

// [[Rcpp::export]]
SEXP narrow_parts(SEXP x) {
  if (TYPEOF(x) == INTSXP) return parts_of<int, uint32_t, IntegerVector>(x, INTEGER_RO);
  if (TYPEOF(x) == REALSXP) return parts_of<double, uint64_t, NumericVector>(x, REAL_RO);
  return R_NilValue;
}

// Which values are gaps, as `is.na()` says it, at the price of a pass over the places.

// [[Rcpp::export]]
LogicalVector gaps_among(SEXP x) {
  const R_xlen_t n = Rf_xlength(x);
  LogicalVector out = no_init(n);
  int* to = out.begin();
  if (TYPEOF(x) == INTSXP) with_wholes(x, [&](auto value) { for (R_xlen_t i = 0; i < n; ++i) to[i] = value(i) == NA_INTEGER; });
  else with_numbers(x, [&](auto value) { for (R_xlen_t i = 0; i < n; ++i) to[i] = std::isnan(value(i)); });
  return out;
}
