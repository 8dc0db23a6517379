#ifndef MAVIK_LOOKED_H
#define MAVIK_LOOKED_H
#include <Rcpp/Lighter>
#include <algorithm>
#include <cstdint>
#include <cstring>
#include <vector>

// The places of a column's values in a table of distinct ones, from 1; 0 is a gap. They are
// bytes or integers. `table` is R's NULL where the places are the values.
struct Looked {
  const uint8_t* narrow = nullptr;
  const int* wide = nullptr;
  R_xlen_t n = 0;
  SEXP table = R_NilValue;
  R_xlen_t size() const { return Rf_xlength(table); }
};

// Whether a vector is looked up; then what it is made of.
bool look_into(SEXP x, Looked& out);

// What holds the values of such a vector: its places, or the values written out; else R's NULL.
SEXP rests_on(SEXP x);

// As R calls it.
SEXP looked_up(SEXP index, SEXP table, SEXP folder, Rcpp::List attributes);
SEXP as_places(SEXP index);

// Integers as places, bytes where they are.
Looked places_in(SEXP index);

// `act` is handed a function from a row (from 0) to its place.
template <class Act> void with_places(const Looked& of, Act act) {
  if (of.narrow) {
    const uint8_t* at = of.narrow;
    act([at](R_xlen_t i) -> int { return at[i]; });
  } else {
    const int* at = of.wide;
    act([at](R_xlen_t i) -> int { return at[i] == NA_INTEGER ? 0 : at[i]; });
  }
}

// `act` is handed a function from a row to its integer, however these are held.
template <class Act> void with_wholes(SEXP x, Act act) {
  Looked of;
  if (TYPEOF(x) != INTSXP || !look_into(x, of) || of.table == R_NilValue) {
    const int* at = INTEGER_RO(x);
    act([at](R_xlen_t i) -> int { return at[i]; });
    return;
  }
  std::vector<int> table(of.size() + 1, NA_INTEGER);
  std::copy(INTEGER_RO(of.table), INTEGER_RO(of.table) + of.size(), table.begin() + 1);
  const int* value = table.data();
  with_places(of, [&](auto place) { act([=](R_xlen_t i) -> int { return value[place(i)]; }); });
}

// The same of numbers; integers become such.
template <class Act> void with_numbers(SEXP x, Act act) {
  Looked of;
  if (!look_into(x, of) || of.table == R_NilValue) {
    Rcpp::NumericVector held(x);
    const double* at = held.begin();
    act([at](R_xlen_t i) -> double { return at[i]; });
    return;
  }
  Rcpp::NumericVector table(of.table);
  std::vector<double> all(table.size() + 1, NA_REAL);
  std::copy(table.begin(), table.end(), all.begin() + 1);
  const double* value = all.data();
  with_places(of, [&](auto place) { act([=](R_xlen_t i) -> double { return value[place(i)]; }); });
}

// Neighbours are counted apart, so that equal ones do not wait for each other.
template <size_t tables = 4> struct Counts {
  const size_t size;
  std::vector<int> count = std::vector<int>(tables * size);
  explicit Counts(size_t size) : size(size) {}
  int& at(size_t table, size_t place) { return count[table * size + place]; }
  std::vector<int> sums(size_t wanted) const {
    std::vector<int> out(wanted);
    for (size_t k = 0; k < wanted; ++k) for (size_t table = 0; table < tables; ++table) out[k] += count[table * size + k];
    return out;
  }
};

// How often each place occurs in the chosen rows, gaps first; `row` gives the i-th row.
template <class Row> std::vector<int> count_places(const Looked& of, size_t size, R_xlen_t n, Row row) {
  Counts<> counts(size + 1);
  with_places(of, [&](auto place) { for (R_xlen_t i = 0; i < n; ++i) ++counts.at(i & 3, (size_t) place(row(i))); });
  return counts.sums(size + 1);
}

// The same of all rows; bytes are fetched eight at once.
inline std::vector<int> count_places(const Looked& of, size_t size) {
  if (!of.narrow) return count_places(of, size, of.n, [](R_xlen_t i) { return i; });
  Counts<> counts(std::max<size_t>(size + 1, UINT8_MAX + 1));
  R_xlen_t i = 0;
  for (; i + 8 <= of.n; i += 8) {
    uint64_t places;
    std::memcpy(&places, of.narrow + i, 8);
    for (size_t k = 0; k < 8; ++k) ++counts.at(k & 3, places >> (8 * k) & UINT8_MAX);
  }
  for (; i < of.n; ++i) ++counts.at(0, of.narrow[i]);
  return counts.sums(size + 1);
}

#endif
