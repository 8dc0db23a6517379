#include <Rcpp/Lighter>
#include <algorithm>
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
  std::vector<std::vector<Sums>> known(columns.size());
  for (size_t j = 0; j < columns.size(); ++j) for (double x : columns[j].values) known[j].push_back(adds(j, x));
  NumericVector out(rows);
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
    for (R_xlen_t i = 0; i < size; ++i) {
      const Sums& row = sums[i];
      const double score = mean ? row.total / row.weight : percent ? 100 * row.total / row.spans :
        row.answered < (double) columns.size() ? row.total / row.weight * whole : row.total;
      out[from + i] = row.answered < least || std::isnan(score) ? NA_REAL : score;
    }
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
  std::vector<double> x(block), first(block), off(k * block);
  // Sums around a value of its own lose no digits.
  std::vector<double> shift(k, NAN), sum(k), own(k), square(k), cross(k * k), count(k);
  std::vector<char> full(block), same(block);
  std::vector<int> among(block + 1);
  double complete = 0, straight = 0;
  const int* at = rows.begin();
  for (R_xlen_t from = 0; from < rows.size(); from += block) {
    const R_xlen_t n = std::min(block, rows.size() - from);
    std::fill(full.begin(), full.end(), 1);
    std::fill(same.begin(), same.end(), 1);
    for (int j = 0; j < k; ++j) {
      columns[j].fetch(n, [&](R_xlen_t i) { return (R_xlen_t) at[from + i] - 1; }, x.data());
      if (j == 0) first = x;
      for (R_xlen_t i = 0; i < n; ++i) same[i] &= x[i] == first[i];
      if (!NumericVector::is_na(turn[j])) for (R_xlen_t i = 0; i < n; ++i) x[i] = turn[j] - x[i];
      for (R_xlen_t i = 0; i < n && std::isnan(shift[j]); ++i) shift[j] = x[i];
      double* d = &off[j * block];
      double sums = own[j], squares = square[j];
      for (R_xlen_t i = 0; i < n; ++i) {
        const bool has = x[i] == x[i];
        d[i] = where(has, x[i] - shift[j]);
        full[i] &= has;
        count[j] += has;
        sums += d[i];
        squares += d[i] * d[i];
      }
      own[j] = sums;
      square[j] = squares;
    }
    R_xlen_t found = 0;
    for (R_xlen_t i = 0; i < n; ++i) {
      among[found] = (int) i;
      found += full[i];
      straight += full[i] & same[i];
    }
    complete += (double) found;
    for (int j = 0; j < k; ++j) {
      double* d = &off[j * block];
      double sums = sum[j];
      for (R_xlen_t i = 0; i < found; ++i) {
        d[i] = d[among[i]];
        sums += d[i];
      }
      sum[j] = sums;
      add_products(d, off.data(), j + 1, found, &cross[j * k]);
    }
  }
  NumericMatrix covariance(k, k);
  NumericVector mean(k), sd(k), answered(k);
  for (int j = 0; j < k; ++j) {
    answered[j] = count[j];
    mean[j] = count[j] > 0 ? shift[j] + own[j] / count[j] : NA_REAL;
    const double spread = count[j] > 1 ? (square[j] - own[j] * own[j] / count[j]) / (count[j] - 1) : NA_REAL;
    sd[j] = count[j] > 1 ? std::sqrt(spread > 0 ? spread : 0) : NA_REAL;
    for (int l = 0; l <= j; ++l) covariance(j, l) = covariance(l, j) = complete > 1 ? (cross[j * k + l] - sum[j] * sum[l] / complete) / (complete - 1) : NA_REAL;
  }
  return List::create(_["complete"] = complete, _["covariance"] = covariance, _["n"] = answered, _["mean"] = mean, _["sd"] = sd, _["straightlined"] = straight);
}
