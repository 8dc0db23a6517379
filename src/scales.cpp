#include <Rcpp/Lighter>
#include <algorithm>
#include <array>
#include <climits>
#include <cmath>
#include <cstdint>
#include <cstring>
#include <numeric>
#include <string>
#include <vector>
#include "looked.h"
using namespace Rcpp;

namespace {

// Integer or double columns alike, looked up or not; a gap is NaN.
struct Column {
  const int* whole = nullptr;
  const double* real = nullptr;
  Looked places;
  std::vector<double> values;
  explicit Column(SEXP x) {
    if (TYPEOF(x) != INTSXP && TYPEOF(x) != REALSXP) stop("items must be numbers");
    if (look_into(x, places) && places.table != R_NilValue) {
      const NumericVector table(places.table);
      values.assign(1, NAN);
      values.insert(values.end(), table.begin(), table.end());
      return;
    }
    places = Looked();
    if (TYPEOF(x) == INTSXP) whole = INTEGER_RO(x);
    else real = REAL_RO(x);
  }
  // The values of `n` rows; `row` gives the i-th.
  template <class Row> void fetch(R_xlen_t n, Row row, double* to) const {
    if (places.narrow) for (R_xlen_t i = 0; i < n; ++i) to[i] = values[places.narrow[row(i)]];
    else if (places.wide) for (R_xlen_t i = 0; i < n; ++i) to[i] = values[places.wide[row(i)] == NA_INTEGER ? 0 : places.wide[row(i)]];
    else if (whole) for (R_xlen_t i = 0; i < n; ++i) to[i] = whole[row(i)] == NA_INTEGER ? NAN : (double) whole[row(i)];
    else for (R_xlen_t i = 0; i < n; ++i) to[i] = real[row(i)];
  }
};

std::vector<Column> columns_of(List items) {
  std::vector<Column> out;
  for (R_xlen_t j = 0; j < items.size(); ++j) out.emplace_back(items[j]);
  return out;
}

// What an item adds to a row's score.
struct Sums {
  double total = 0, weight = 0, spans = 0, answered = 0;
  void add(const Sums& other) { total += other.total; weight += other.weight; spans += other.spans; answered += other.answered; }
};

const R_xlen_t block = 512;

// The value or 0, without a branch: gaps come as they like.
inline double where(bool has, double value) {
  uint64_t bits;
  std::memcpy(&bits, &value, sizeof bits);
  bits &= (uint64_t) 0 - (uint64_t) has;
  std::memcpy(&value, &bits, sizeof bits);
  return value;
}

// Sums of the products of an item with the first `k` items over a block's rows. Four sums run side
// by side, so that none waits for another; each is added up row by row.
void add_products(const double* own, const double* items, int k, R_xlen_t n, double* cross) {
  for (int from = 0; from < k; from += 4) {
    const double* other[4];
    double sums[4] = {0, 0, 0, 0};
    for (int l = 0; l < 4; ++l) {
      other[l] = items + block * std::min(from + l, k - 1);
      sums[l] = cross[std::min(from + l, k - 1)];
    }
    for (R_xlen_t i = 0; i < n; ++i) {
      const double d = own[i];
      sums[0] += d * other[0][i];
      sums[1] += d * other[1][i];
      sums[2] += d * other[2][i];
      sums[3] += d * other[3][i];
    }
    for (int l = 0; l < 4 && from + l < k; ++l) cross[from + l] = sums[l];
  }
}

// Sums of `k` items around a value of each of its own, where they lose no digits: of each item
// alone (`own`, `square`, `count`), and of the rows that answered all (`sum`, `cross`, `complete`).
struct ItemSums {
  const int k;
  std::vector<double> shift, sum, own, square, cross, count;
  double complete = 0, straight = 0;
  explicit ItemSums(int items) : k(items), shift(k, NAN), sum(k), own(k), square(k), cross(k * k), count(k) {}
};

// The value of an item, from its bounds where it is reversed.
inline double turned(double x, double turn) { return std::isnan(turn) ? x : turn - x; }

void add_by_rows(const std::vector<Column>& columns, NumericVector turn, const int* rows, R_xlen_t size, ItemSums& to) {
  const int k = to.k;
  std::vector<double> x(block), first(block), off(k * block);
  std::vector<char> full(block), same(block);
  std::vector<int> among(block + 1);
  for (R_xlen_t from = 0; from < size; from += block) {
    const R_xlen_t n = std::min(block, size - from);
    std::fill(full.begin(), full.end(), 1);
    std::fill(same.begin(), same.end(), 1);
    for (int j = 0; j < k; ++j) {
      columns[j].fetch(n, [&](R_xlen_t i) { return (R_xlen_t) rows[from + i] - 1; }, x.data());
      if (j == 0) first = x;
      for (R_xlen_t i = 0; i < n; ++i) same[i] &= x[i] == first[i];
      if (!std::isnan(turn[j])) for (R_xlen_t i = 0; i < n; ++i) x[i] = turn[j] - x[i];
      double* d = &off[j * block];
      double sums = to.own[j], squares = to.square[j];
      for (R_xlen_t i = 0; i < n; ++i) {
        const bool has = x[i] == x[i];
        d[i] = where(has, x[i] - to.shift[j]);
        full[i] &= has;
        to.count[j] += has;
        sums += d[i];
        squares += d[i] * d[i];
      }
      to.own[j] = sums;
      to.square[j] = squares;
    }
    R_xlen_t found = 0;
    for (R_xlen_t i = 0; i < n; ++i) {
      among[found] = (int) i;
      found += full[i];
      to.straight += full[i] & same[i];
    }
    to.complete += (double) found;
    for (int j = 0; j < k; ++j) {
      double* d = &off[j * block];
      double sums = to.sum[j];
      for (R_xlen_t i = 0; i < found; ++i) {
        d[i] = d[among[i]];
        sums += d[i];
      }
      to.sum[j] = sums;
      add_products(d, off.data(), j + 1, found, &to.cross[j * k]);
    }
  }
}

// The different values of a column in bytes, and which of them stands at each place: several texts
// may have one value.
struct Answers {
  std::vector<double> values;
  std::vector<uint8_t> at;
  explicit Answers(const std::vector<double>& table) : values(1, NAN) {
    for (double x : table) {
      size_t k = 0;
      if (!std::isnan(x)) for (k = 1; k < values.size() && values[k] != x; ++k) {}
      if (k == values.size()) values.push_back(x);
      at.push_back((uint8_t) k);
    }
  }
};

// What rows answer in all columns together: patterns are numbered, the last column's answers changing
// first. None where columns are not looked up by bytes, or patterns not few for the rows.
class Patterns {
  const std::vector<Column>& columns;
  std::vector<Answers> answers;
  // What the answer at each place adds to the number.
  std::vector<std::array<uint32_t, 256>> part;
public:
  size_t count = 1;
  Patterns(const std::vector<Column>& from, R_xlen_t rows) : columns(from) {
    for (const Column& column : columns) {
      if (!column.places.narrow) { count = 0; return; }
      answers.emplace_back(column.values);
      count *= answers.back().values.size();
      if (count > (size_t) 1 << 18 || count > (size_t) rows / 4) { count = 0; return; }
    }
    part.resize(columns.size());
    size_t step = 1;
    for (size_t j = columns.size(); j-- > 0; step *= answers[j].values.size())
      for (size_t k = 0; k < answers[j].at.size(); ++k) part[j][k] = (uint32_t) (answers[j].at[k] * step);
  }
  // Does `act` for the answers of each pattern, in their order.
  template <class Act> void each(Act act) const {
    std::vector<size_t> place(answers.size(), 0);
    std::vector<double> x;
    for (const Answers& answer : answers) x.push_back(answer.values[0]);
    for (size_t at = 0; at < count; ++at) {
      act(at, x.data());
      for (size_t j = answers.size(); j-- > 0;) {
        const bool over = ++place[j] == answers[j].values.size();
        if (over) place[j] = 0;
        x[j] = answers[j].values[place[j]];
        if (!over) break;
      }
    }
  }
  // Those of `n` rows, of which `row` gives the i-th; two columns at a time.
  template <class Row> void find(R_xlen_t n, Row row, uint32_t* to) const {
    std::fill(to, to + n, 0);
    for (size_t j = 0; j < columns.size(); j += 2) {
      const uint8_t* one = columns[j].places.narrow;
      const uint32_t* first = part[j].data();
      if (j + 1 == columns.size()) {
        for (R_xlen_t i = 0; i < n; ++i) to[i] += first[one[row(i)]];
        return;
      }
      const uint8_t* two = columns[j + 1].places.narrow;
      const uint32_t* second = part[j + 1].data();
      for (R_xlen_t i = 0; i < n; ++i) to[i] += first[one[row(i)]] + second[two[row(i)]];
    }
  }
  // Whether no order of adding up makes a difference: whole numbers so small that no sum of their
  // products outgrows what a double holds.
  bool add_exactly(NumericVector turn) const {
    auto whole = [](double x) { return std::isnan(x) || (x == std::floor(x) && std::fabs(x) < 1e3); };
    for (size_t j = 0; j < answers.size(); ++j)
      if (!whole(turn[j]) || !std::all_of(answers[j].values.begin(), answers[j].values.end(), whole)) return false;
    return true;
  }
};

// Whole numbers have the same sums in any order: rows are counted by what they answered, and each
// pattern is added once.
void add_by_patterns(const Patterns& patterns, NumericVector turn, const int* rows, R_xlen_t size, ItemSums& to) {
  const int k = to.k;
  std::vector<int> counts(patterns.count);
  std::vector<uint32_t> pattern(block);
  for (R_xlen_t from = 0; from < size; from += block) {
    const R_xlen_t n = std::min(block, size - from);
    patterns.find(n, [&](R_xlen_t i) { return rows[from + i] - 1; }, pattern.data());
    for (R_xlen_t i = 0; i < n; ++i) ++counts[pattern[i]];
  }
  std::vector<double> d(k);
  patterns.each([&](size_t at, const double* x) {
    const double times = counts[at];
    if (times == 0) return;
    bool full = true, same = true;
    for (int j = 0; j < k; ++j) {
      full &= !std::isnan(x[j]);
      same &= x[j] == x[0];
      if (std::isnan(x[j])) continue;
      d[j] = turned(x[j], turn[j]) - to.shift[j];
      to.count[j] += times;
      to.own[j] += times * d[j];
      to.square[j] += times * d[j] * d[j];
    }
    if (!full) return;
    to.complete += times;
    if (same) to.straight += times;
    for (int j = 0; j < k; ++j) {
      to.sum[j] += times * d[j];
      for (int l = 0; l <= j; ++l) to.cross[j * k + l] += times * d[j] * d[l];
    }
  });
}

}

// The score of each row: of the answered items, each weighted and where it is reversed
// taken from `turn` (the sum of its bounds, else NA), the mean, the sum (filled up in
// proportion) or the percent of the spans above `low`. NA where fewer than `least` are
// answered or it cannot be worked out.

// [[Rcpp::export]]
NumericVector score_values(List items, NumericVector turn, NumericVector low, NumericVector span, NumericVector weights, double n, std::string take, double least) {
  const std::vector<Column> columns = columns_of(items);
  const R_xlen_t rows = (R_xlen_t) n;
  const double whole = std::accumulate(weights.begin(), weights.end(), 0.0);
  const bool mean = take == "mean", percent = take == "percent";
  auto adds = [&](size_t j, double x) {
    Sums out;
    if (std::isnan(x)) return out;
    out.total = weights[j] * ((NumericVector::is_na(turn[j]) ? x : turn[j] - x) - low[j]);
    out.weight = weights[j];
    out.spans = weights[j] * span[j];
    out.answered = 1;
    return out;
  };
  auto score_of = [&](const Sums& row) {
    const double score = mean ? row.total / row.weight : percent ? 100 * row.total / row.spans :
      row.answered < (double) columns.size() ? row.total / row.weight * whole : row.total;
    return row.answered < least || std::isnan(score) ? NA_REAL : score;
  };
  NumericVector out = no_init(rows);
  double* to = out.begin();
  const Patterns patterns(columns, rows);
  if (patterns.count > 0) {
    std::vector<double> scores(patterns.count);
    patterns.each([&](size_t at, const double* x) {
      Sums sums;
      for (size_t j = 0; j < columns.size(); ++j) sums.add(adds(j, x[j]));
      scores[at] = score_of(sums);
    });
    std::vector<uint32_t> pattern(block);
    for (R_xlen_t from = 0; from < rows; from += block) {
      const R_xlen_t size = std::min(block, rows - from);
      patterns.find(size, [&](R_xlen_t i) { return from + i; }, pattern.data());
      for (R_xlen_t i = 0; i < size; ++i) to[from + i] = scores[pattern[i]];
    }
    return out;
  }
  std::vector<std::vector<Sums>> known(columns.size());
  for (size_t j = 0; j < columns.size(); ++j) for (double x : columns[j].values) known[j].push_back(adds(j, x));
  std::vector<Sums> sums(block);
  std::vector<double> x(block);
  for (R_xlen_t from = 0; from < rows; from += block) {
    const R_xlen_t size = std::min(block, rows - from);
    std::fill(sums.begin(), sums.end(), Sums());
    for (size_t j = 0; j < columns.size(); ++j) {
      const uint8_t* narrow = columns[j].places.narrow;
      if (narrow) {
        for (R_xlen_t i = 0; i < size; ++i) sums[i].add(known[j][narrow[from + i]]);
        continue;
      }
      columns[j].fetch(size, [&](R_xlen_t i) { return from + i; }, x.data());
      for (R_xlen_t i = 0; i < size; ++i) sums[i].add(adds(j, x[i]));
    }
    for (R_xlen_t i = 0; i < size; ++i) to[from + i] = score_of(sums[i]);
  }
  return out;
}

// Why a row has no score, 0 where it has one: `too_few`, or where the reasons of all items are among
// `unasked` the first of these. An item without gaps has R's NULL for its reasons.

// [[Rcpp::export]]
IntegerVector gaps_of_score(NumericVector score, List reasons, IntegerVector unasked, int too_few) {
  const R_xlen_t n = score.size();
  IntegerVector out(n);
  std::vector<int> rows;
  for (R_xlen_t i = 0; i < n; ++i) if (std::isnan(score[i])) rows.push_back((int) i);
  std::vector<int> least(rows.size(), INT_MAX);
  bool open = true;
  for (R_xlen_t j = 0; j < reasons.size() && open; ++j) {
    open = false;
    if (!Rf_isNull(reasons[j])) with_wholes(reasons[j], [&](auto reason) {
      for (size_t k = 0; k < rows.size(); ++k) {
        const int why = reason(rows[k]);
        const bool silent = std::find(unasked.begin(), unasked.end(), why) != unasked.end();
        least[k] = silent ? std::min(least[k], why) : -1;
        open |= silent;
      }
    });
  }
  for (size_t k = 0; k < rows.size(); ++k) out[rows[k]] = open && least[k] >= 0 && least[k] < INT_MAX ? least[k] : too_few;
  return out;
}

// Means and covariances of the rows (counted from 1) that answered all items, n,
// mean and sd of each item alone, and how many rows gave one answer to all.

// [[Rcpp::export]]
List scale_moments(List items, NumericVector turn, IntegerVector rows) {
  const std::vector<Column> columns = columns_of(items);
  const int k = (int) columns.size();
  ItemSums of(k);
  for (int j = 0; j < k; ++j) for (R_xlen_t i = 0; i < rows.size() && std::isnan(of.shift[j]); ++i) {
    double x;
    columns[j].fetch(1, [&](R_xlen_t) { return (R_xlen_t) rows[i] - 1; }, &x);
    of.shift[j] = turned(x, turn[j]);
  }
  const Patterns patterns(columns, rows.size());
  if (patterns.count == 0 || !patterns.add_exactly(turn)) add_by_rows(columns, turn, rows.begin(), rows.size(), of);
  else add_by_patterns(patterns, turn, rows.begin(), rows.size(), of);
  NumericMatrix covariance(k, k);
  NumericVector mean(k), sd(k), answered(k);
  for (int j = 0; j < k; ++j) {
    answered[j] = of.count[j];
    mean[j] = of.count[j] > 0 ? of.shift[j] + of.own[j] / of.count[j] : NA_REAL;
    const double spread = of.count[j] > 1 ? (of.square[j] - of.own[j] * of.own[j] / of.count[j]) / (of.count[j] - 1) : NA_REAL;
    sd[j] = of.count[j] > 1 ? std::sqrt(spread > 0 ? spread : 0) : NA_REAL;
    for (int l = 0; l <= j; ++l) covariance(j, l) = covariance(l, j) = of.complete > 1 ? (of.cross[j * k + l] - of.sum[j] * of.sum[l] / of.complete) / (of.complete - 1) : NA_REAL;
  }
  return List::create(_["complete"] = of.complete, _["covariance"] = covariance, _["n"] = answered, _["mean"] = mean, _["sd"] = sd, _["straightlined"] = of.straight);
}
