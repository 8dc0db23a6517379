#ifndef MAVIK_LOOKED_H
#define MAVIK_LOOKED_H
#include <Rcpp/Lighter>
#include <algorithm>
#include <cstdint>
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

// Rows whose place (0 a gap) is marked, in their order: `act` gets the row and its place, and may
// take marks away. There is a mark for each byte, so that eight of them are passed over at once.
class Marks {
  std::vector<uint8_t> held;
public:
  explicit Marks(size_t size) : held(std::max<size_t>(size + 1, UINT8_MAX + 1)) {}
  uint8_t& operator[](size_t place) { return held[place]; }
  template <class Act> void each(const Looked& of, Act act) const {
    const uint8_t* mark = held.data();
    R_xlen_t i = 0;
    if (of.narrow) for (; i + 8 <= of.n; i += 8) {
      const uint8_t* at = of.narrow + i;
      if (!(mark[at[0]] | mark[at[1]] | mark[at[2]] | mark[at[3]] | mark[at[4]] | mark[at[5]] | mark[at[6]] | mark[at[7]])) continue;
      for (int k = 0; k < 8; ++k) if (mark[at[k]]) act(i + k, (int) at[k]);
    }
    with_places(of, [&](auto place) { for (; i < of.n; ++i) if (mark[place(i)]) act(i, place(i)); });
  }
};

// How often each place occurs in the chosen rows, gaps first; `row` gives the i-th row. Neighbours
// are counted apart, so that equal ones do not wait for each other.
template <class Row> std::vector<int> count_places(const Looked& of, size_t size, R_xlen_t n, Row row) {
  std::vector<int> count(4 * (size + 1));
  with_places(of, [&](auto place) { for (R_xlen_t i = 0; i < n; ++i) ++count[4 * (size_t) place(row(i)) + (i & 3)]; });
  std::vector<int> out(size + 1);
  for (size_t k = 0; k <= size; ++k) out[k] = count[4 * k] + count[4 * k + 1] + count[4 * k + 2] + count[4 * k + 3];
  return out;
}

// The same of all rows; of bytes four are counted at once.
inline std::vector<int> count_places(const Looked& of, size_t size) {
  if (!of.narrow) return count_places(of, size, of.n, [](R_xlen_t i) { return i; });
  constexpr size_t bytes = UINT8_MAX + 1;
  std::vector<int> count(4 * bytes);
  int* own = count.data();
  const uint8_t *at = of.narrow, *end = at + of.n;
  for (; end - at >= 4; at += 4) {
    ++own[at[0]];
    ++own[bytes + at[1]];
    ++own[2 * bytes + at[2]];
    ++own[3 * bytes + at[3]];
  }
  for (; at < end; ++at) ++own[*at];
  std::vector<int> out(size + 1);
  for (size_t k = 0; k < std::min(size + 1, bytes); ++k) out[k] = own[k] + own[bytes + k] + own[2 * bytes + k] + own[3 * bytes + k];
  return out;
}

#endif
