#include <Rcpp/Lighter>
#include <algorithm>
#include <cmath>
#include <cstdint>
#include <unordered_map>
#include <vector>
#include "looked.h"
using namespace Rcpp;

// Counts of whole columns in one pass each, over chosen rows (from 1; all if NULL).

namespace {

struct Rows {
  const int* at = nullptr;
  R_xlen_t n;
  Rows(Nullable<IntegerVector> rows, R_xlen_t all) : n(all) {
    if (rows.isNull()) return;
    IntegerVector which(rows);
    at = which.begin();
    n = which.size();
  }
  R_xlen_t operator[](R_xlen_t i) const { return at ? at[i] - 1 : i; }
  R_xlen_t operator()(R_xlen_t i) const { return (*this)[i]; }
};

// How often each place occurs in the rows, gaps first.
std::vector<int> count_in(const Looked& of, size_t size, const Rows& rows) {
  return rows.at ? count_places(of, size, rows.n, rows) : count_places(of, size);
}

// The values that are there: where a column has a table each distinct one with how often it
// occurs, in order; else one by one.
class Values {
  std::vector<std::pair<double, int>> counted;
  std::vector<double> held;
  size_t n = 0;
public:
  Values(SEXP x, const Rows& of) {
    Looked looked;
    if (look_into(x, looked) && looked.table != R_NilValue) {
      NumericVector table(looked.table);
      const std::vector<int> count = count_in(looked, table.size(), of);
      for (R_xlen_t k = 0; k < table.size(); ++k) if (count[k + 1] > 0 && !ISNAN(table[k])) counted.emplace_back(table[k], count[k + 1]);
      std::sort(counted.begin(), counted.end());
    } else {
      held.reserve(of.n);
      with_numbers(x, [&](auto value) { for (R_xlen_t i = 0; i < of.n; ++i) if (!ISNAN(value(of[i]))) held.push_back(value(of[i])); });
    }
    each([&](double, int times) { n += times; });
  }
  size_t size() const { return n; }
  template <class Act> void each(Act act) const {
    for (const auto& value : counted) act(value.first, value.second);
    for (double value : held) act(value, 1);
  }
  size_t below(double limit) const {
    size_t out = 0;
    each([&](double value, int times) { if (value < limit) out += times; });
    return out;
  }
  // Which value stands at a place (from 0) when all are put in order.
  double at(size_t place) {
    for (const auto& value : counted) {
      if (place < (size_t) value.second) return value.first;
      place -= value.second;
    }
    std::nth_element(held.begin(), held.begin() + place, held.end());
    return held[place];
  }
};

// The mean, and the sums of squares and cubes about it.
struct Moments { long double mean, squares, cubes; };

// In the order of the rows: sums of decimals hang on it in their last digits.
Moments moments_by_rows(SEXP x, const Rows& of, size_t n) {
  Moments out{0, 0, 0};
  with_numbers(x, [&](auto value) {
    auto each = [&](auto act) { for (R_xlen_t i = 0; i < of.n; ++i) if (!ISNAN(value(of[i]))) act(value(of[i])); };
    long double sum = 0, rest = 0;
    each([&](double one) { sum += one; });
    out.mean = sum / n;
    each([&](double one) { rest += one - out.mean; });
    out.mean += rest / n;
    each([&](double one) {
      const long double off = one - out.mean;
      out.squares += off * off;
      out.cubes += off * off * off;
    });
  });
  return out;
}

// Whole numbers whose sums up to cubes are exact, so that they are the same however a column is held.
bool add_up_exactly(double low, double high, size_t n) {
  const double span = high - low + 1;
  return low > -9e15 && high < 9e15 && span * span * span * n < 4e18;
}

// About the whole number next to the mean, and from there about the mean.
Moments exact_moments(const Values& values, double low, size_t n) {
  int64_t first = 0, sum = 0, squares = 0, cubes = 0;
  values.each([&](double one, int times) { first += (int64_t) (one - low) * times; });
  const int64_t next = (int64_t) std::llround((long double) first / n);
  values.each([&](double one, int times) {
    const int64_t off = (int64_t) (one - low) - next;
    sum += off * times;
    squares += off * off * times;
    cubes += off * off * off * times;
  });
  const long double off = (long double) sum / n;
  return Moments{(long double) low + (long double) first / n, squares - sum * off, cubes - 3 * off * squares + 2 * n * off * off * off};
}

IntegerVector rows_where(const Looked& of, const LogicalVector& wanted) {
  Marks marks(wanted.size());
  for (R_xlen_t k = 0; k < wanted.size(); ++k) marks[k + 1] = wanted[k] == TRUE;
  std::vector<int> out;
  marks.each(of, [&](R_xlen_t i, int) { out.push_back((int) i + 1); });
  return IntegerVector(out.begin(), out.end());
}

}

// How often each whole number from `low` to `high` occurs.
// [[Rcpp::export]]
IntegerVector count_between(SEXP x, Nullable<IntegerVector> rows, int low, int high) {
  const Rows of(rows, Rf_xlength(x));
  const unsigned size = high < low ? 0u : (unsigned) high - (unsigned) low + 1u;
  Looked looked;
  if (look_into(x, looked) && (looked.table == R_NilValue ? looked.narrow != nullptr : TYPEOF(looked.table) == INTSXP)) {
    IntegerVector out(size);
    const bool plain = looked.table == R_NilValue;
    const std::vector<int> count = count_in(looked, plain ? UINT8_MAX : looked.size(), of);
    for (size_t k = 1; k < count.size(); ++k) {
      const unsigned at = (unsigned) (plain ? (int) k : INTEGER_RO(looked.table)[k - 1]) - (unsigned) low;
      if (at < size) out[at] += count[k];
    }
    return out;
  }
  // Neighbours are counted apart, so that equal ones do not wait for each other.
  std::vector<int> count(size * 4 + 4);
  IntegerVector whole(x);
  const int* value = whole.begin();
  for (R_xlen_t i = 0; i < of.n; ++i) {
    const unsigned at = (unsigned) value[of[i]] - (unsigned) low;
    count[at < size ? 4 * (size_t) at + (i & 3) : 4 * (size_t) size] += 1;
  }
  IntegerVector out(size);
  for (unsigned k = 0; k < size; ++k) out[k] = count[4 * k] + count[4 * k + 1] + count[4 * k + 2] + count[4 * k + 3];
  return out;
}

// The state of each chosen row: the place of its code, or behind the codes the place
// of its reason; NA where it has neither.
// [[Rcpp::export]]
IntegerVector states_at(SEXP value, SEXP reason, Nullable<IntegerVector> rows, IntegerVector codes, IntegerVector reasons) {
  const Rows of(rows, Rf_xlength(value));
  std::unordered_map<int, int> place;
  for (R_xlen_t k = 0; k < codes.size(); ++k) place.emplace(codes[k], (int) k + 1);
  std::vector<int> behind;
  for (R_xlen_t k = 0; k < reasons.size(); ++k) {
    if ((int) behind.size() <= reasons[k]) behind.resize(reasons[k] + 1, NA_INTEGER);
    behind[reasons[k]] = (int) (codes.size() + k) + 1;
  }
  int low = 0, high = -1;
  if (codes.size() > 0) { low = min(codes); high = max(codes); }
  std::vector<int> table;
  if ((double) high - low < 65536) {
    table.assign(high - low + 1, NA_INTEGER);
    for (const auto& one : place) table[one.first - low] = one.second;
  }
  const Shield<SEXP> whole(TYPEOF(value) == INTSXP ? value : Rf_coerceVector(value, INTSXP));
  IntegerVector out(of.n, NA_INTEGER);
  if (!Rf_isNull(reason)) with_wholes(reason, [&](auto why) {
    for (R_xlen_t i = 0; i < of.n; ++i) {
      const int gap = why(of[i]);
      if (gap >= 0 && gap < (int) behind.size()) out[i] = behind[gap];
    }
  });
  with_wholes(whole, [&](auto value) {
    for (R_xlen_t i = 0; i < of.n; ++i) {
      const int here = value(of[i]);
      if (out[i] != NA_INTEGER || here == NA_INTEGER) continue;
      if (!table.empty()) { if (here >= low && here <= high) out[i] = table[here - low]; }
      else { const auto found = place.find(here); if (found != place.end()) out[i] = found->second; }
    }
  });
  return out;
}

// How often each pair of states occurs.
// [[Rcpp::export]]
IntegerMatrix count_pairs(IntegerVector a, IntegerVector b, int size_a, int size_b) {
  IntegerMatrix out(size_a, size_b);
  int* count = out.begin();
  const int *x = a.begin(), *y = b.begin();
  for (R_xlen_t i = 0; i < a.size(); ++i) {
    if (x[i] != NA_INTEGER && y[i] != NA_INTEGER) ++count[(x[i] - 1) + (R_xlen_t) (y[i] - 1) * size_a];
  }
  return out;
}

// For each state how often it occurs, the lowest and highest value with it, and how
// many have none.
// [[Rcpp::export]]
List spread_of(IntegerVector state, int size, NumericVector value, Nullable<IntegerVector> rows) {
  const Rows of(rows, value.size());
  IntegerVector n(size), gaps(size);
  NumericVector low(size, NA_REAL), high(size, NA_REAL);
  for (R_xlen_t i = 0; i < of.n; ++i) {
    if (state[i] == NA_INTEGER) continue;
    const int k = state[i] - 1;
    const double x = value[of[i]];
    ++n[k];
    if (ISNAN(x)) { ++gaps[k]; continue; }
    if (ISNAN(low[k]) || x < low[k]) low[k] = x;
    if (ISNAN(high[k]) || x > high[k]) high[k] = x;
  }
  return List::create(_["n"] = n, _["low"] = low, _["high"] = high, _["gaps"] = gaps);
}

// n, mean, sd (with n - 1), smallest, quartiles, largest of the values that are there,
// whether all are whole, and their skew (m3 / m2^1.5); the quartile at share p lies at 1 + (n - 1) p of the values in order.
// [[Rcpp::export]]
NumericVector tally_number(SEXP x, Nullable<IntegerVector> rows) {
  const Rows of(rows, Rf_xlength(x));
  Values values(x, of);
  const size_t n = values.size();
  NumericVector out(10, NA_REAL);
  out.names() = CharacterVector::create("n", "mean", "sd", "min", "q1", "median", "q3", "max", "whole", "skew");
  out[0] = (double) n;
  if (n == 0) return out;
  double low = INFINITY, high = -INFINITY;
  bool whole = true;
  values.each([&](double one, int) {
    low = std::min(low, one);
    high = std::max(high, one);
    whole = whole && one == std::floor(one);
  });
  const Moments moments = whole && add_up_exactly(low, high, n) ? exact_moments(values, low, n) : moments_by_rows(x, of, n);
  out[1] = (double) moments.mean;
  if (n > 1) out[2] = (double) std::sqrt(moments.squares / (n - 1));
  if (moments.squares > 0) out[9] = (double) ((moments.cubes / n) / std::pow(moments.squares / n, 1.5L));
  out[3] = low;
  out[7] = high;
  out[8] = whole;
  for (int q = 1; q <= 3; ++q) {
    const double place = (double) (n - 1) * q / 4;
    const size_t below = (size_t) std::floor(place);
    const double from = values.at(below);
    out[3 + q] = place == (double) below ? from : from + (place - (double) below) * (values.at(below + 1) - from);
  }
  return out;
}

// How many values lie between neighbouring breaks of equal width; the last bin holds
// its upper end.
// [[Rcpp::export]]
IntegerVector bin_counts(SEXP x, NumericVector breaks, Nullable<IntegerVector> rows = R_NilValue) {
  const Rows of(rows, Rf_xlength(x));
  const int bins = (int) breaks.size() - 1;
  const double low = breaks[0], high = breaks[bins], width = (high - low) / bins;
  IntegerVector out(bins);
  auto add = [&](double one, int count) {
    if (!(one >= low && one <= high)) return;
    int at = std::min(bins - 1, (int) ((one - low) / width));
    while (at > 0 && one < breaks[at]) --at;
    while (at < bins - 1 && one >= breaks[at + 1]) ++at;
    out[at] += count;
  };
  Looked looked;
  if (look_into(x, looked) && looked.table != R_NilValue) {
    NumericVector table(looked.table);
    const std::vector<int> count = count_in(looked, table.size(), of);
    for (R_xlen_t k = 0; k < table.size(); ++k) add(table[k], count[k + 1]);
    return out;
  }
  NumericVector value(x);
  for (R_xlen_t i = 0; i < of.n; ++i) add(value[of[i]], 1);
  return out;
}

// The rows that stand at the lowest, the middle and the highest place when the values
// that are there are put in order, equal ones as they come. Fewer than three give none.
// [[Rcpp::export]]
IntegerVector ranked_rows(SEXP x, Nullable<IntegerVector> rows) {
  const Rows of(rows, Rf_xlength(x));
  Values values(x, of);
  const size_t n = values.size();
  if (n < 3) return IntegerVector(0);
  const size_t places[3] = {0, (n + 1) / 2 - 1, n - 1};
  IntegerVector out(3);
  for (int p = 0; p < 3; ++p) {
    const double value = values.at(places[p]);
    size_t before = places[p] - values.below(value);
    with_numbers(x, [&](auto number) { for (R_xlen_t i = 0; i < of.n; ++i) {
      if (number(of[i]) != value) continue;
      if (before == 0) { out[p] = (int) of[i] + 1; break; }
      --before;
    } });
  }
  return out;
}

// How often each distinct cell occurs, and of those that are `wanted` the first places,
// `most` a cell (NA where there are fewer).
// [[Rcpp::export]]
List tally_cells(SEXP index, int size, LogicalVector wanted, int most) {
  IntegerVector counts(size);
  int kept = 0;
  std::vector<int> place(size, -1);
  for (int k = 0; k < size; ++k) if (wanted[k]) place[k] = kept++;
  IntegerMatrix first(most, kept);
  std::fill(first.begin(), first.end(), NA_INTEGER);
  int* out = first.begin();
  const Looked of = places_in(index);
  const std::vector<int> count = count_places(of, size);
  std::copy(count.begin() + 1, count.end(), counts.begin());
  // The first places are sought until all of a cell's are found.
  Marks open(size);
  for (int k = 0; k < size; ++k) open[k + 1] = place[k] >= 0;
  std::vector<int> seen(size);
  open.each(of, [&](R_xlen_t i, int at) {
    const int k = at - 1;
    out[(R_xlen_t) place[k] * most + seen[k]++] = (int) i + 1;
    if (seen[k] == std::min(most, count[at])) open[at] = 0;
  });
  return List::create(_["counts"] = counts, _["first"] = first);
}

// The rows whose cell is among those that are `wanted`.
// [[Rcpp::export]]
IntegerVector rows_among(SEXP index, LogicalVector wanted) { return rows_where(places_in(index), wanted); }

// Of the rows of each band (from 1) how many have a cell that is `wanted`.
// [[Rcpp::export]]
IntegerVector count_in_bands(SEXP index, LogicalVector wanted, IntegerVector band, int bands) {
  const Looked of = places_in(index);
  std::vector<int> among(wanted.size() + 1), count(bands + 1);
  std::copy(wanted.begin(), wanted.end(), among.begin() + 1);
  const int* at = band.begin();
  with_places(of, [&](auto place) { for (R_xlen_t i = 0; i < of.n; ++i) count[at[i]] += among[place(i)]; });
  return IntegerVector(count.begin() + 1, count.end());
}

// The rows whose number lies outside a range.
// [[Rcpp::export]]
IntegerVector rows_outside(SEXP value, double low, double high) {
  Looked of;
  if (look_into(value, of) && of.table != R_NilValue) {
    NumericVector table(of.table);
    LogicalVector outside(table.size());
    for (R_xlen_t k = 0; k < table.size(); ++k) outside[k] = table[k] < low || table[k] > high;
    return is_false(any(outside)) ? IntegerVector(0) : rows_where(of, outside);
  }
  std::vector<int> out;
  const R_xlen_t n = Rf_xlength(value);
  if (TYPEOF(value) == REALSXP) {
    const double* at = REAL_RO(value);
    for (R_xlen_t i = 0; i < n; ++i) if (at[i] < low || at[i] > high) out.push_back((int) i + 1);
  } else if (TYPEOF(value) == INTSXP) {
    const int* at = INTEGER_RO(value);
    for (R_xlen_t i = 0; i < n; ++i) if (at[i] != NA_INTEGER && (at[i] < low || at[i] > high)) out.push_back((int) i + 1);
  }
  return IntegerVector(out.begin(), out.end());
}

// How many values are one number, but for what arithmetic leaves.
// [[Rcpp::export]]
double count_near(SEXP x, double value, Nullable<IntegerVector> rows) {
  const Rows of(rows, Rf_xlength(x));
  double n = 0;
  with_numbers(x, [&](auto number) { for (R_xlen_t i = 0; i < of.n; ++i) n += std::fabs(number(of[i]) - value) < 1e-9; });
  return n;
}

// Of each row: how many of the columns are answered, the last of them, how many of those after
// `opening`, and the sums of the weights of answered columns and of all cells. `full` and `weight`
// hold a value a distinct cell.

// [[Rcpp::export]]
List gaps_of_rows(List index, List full, List weight, NumericVector own, int n, int opening) {
  IntegerVector answered(n), last(n), late(n);
  NumericVector pattern(n), same(n);
  const int k = index.size(), block = 8192;
  // What a cell adds, with a gap's in front; no step hangs on whether it is full.
  struct Adds { double same, pattern; int answered, late, last; };
  std::vector<Looked> at;
  std::vector<std::vector<Adds>> adds(k);
  for (int i = 0; i < k; ++i) {
    at.push_back(places_in(index[i]));
    LogicalVector is_full(full[i]);
    NumericVector weights(weight[i]);
    adds[i].push_back(Adds{0, 0, 0, 0, 0});
    for (R_xlen_t cell = 0; cell < is_full.size(); ++cell) adds[i].push_back(is_full[cell] ?
      Adds{weights[cell], own[i], 1, i >= opening, i + 1} : Adds{weights[cell], 0, 0, 0, 0});
  }
  for (int from = 0; from < n; from += block) {
    const int to = std::min(n, from + block);
    for (int i = 0; i < k; ++i) with_places(at[i], [&](auto place) {
      const Adds* add = adds[i].data();
      for (int row = from; row < to; ++row) {
        const Adds& cell = add[place(row)];
        same[row] += cell.same;
        pattern[row] += cell.pattern;
        answered[row] += cell.answered;
        late[row] += cell.late;
        last[row] = std::max(last[row], cell.last);
      }
    });
  }
  return List::create(_["answered"] = answered, _["last"] = last, _["late"] = late,
    _["pattern"] = pattern, _["same"] = same);
}
