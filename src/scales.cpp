#include <Rcpp/Lighter>
#include <algorithm>
#include <cmath>
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
    } else if (TYPEOF(x) == INTSXP) {
      whole = INTEGER_RO(x);
    } else {
      real = REAL_RO(x);
    }
  }
  double at(R_xlen_t i) const {
    if (whole) return whole[i] == NA_INTEGER ? NAN : (double) whole[i];
    if (real) return real[i];
    return values[places.narrow ? places.narrow[i] : places.wide[i] == NA_INTEGER ? 0 : places.wide[i]];
  }
};

std::vector<Column> columns_of(List items) {
  std::vector<Column> out;
  for (R_xlen_t j = 0; j < items.size(); ++j) out.emplace_back(items[j]);
  return out;
}

}

// The score of each row: of the answered items, each weighted and where it is reversed
// taken from `turn` (the sum of its bounds, else NA), the mean, the sum (filled up in
// proportion) or the percent of the spans above `low`. NA where fewer than `least` are
// answered or it cannot be worked out.

// [[Rcpp::export]]
NumericVector score_values(List items, NumericVector turn, NumericVector low, NumericVector span, NumericVector weights, double n, std::string take, double least) {
  const std::vector<Column> columns = columns_of(items);
  const R_xlen_t rows = (R_xlen_t) n, block = 1024;
  const double whole = std::accumulate(weights.begin(), weights.end(), 0.0);
  NumericVector out(rows);
  std::vector<double> total(block), weight(block), spans(block);
  std::vector<int> answered(block);
  for (R_xlen_t from = 0; from < rows; from += block) {
    const R_xlen_t size = std::min(block, rows - from);
    std::fill(total.begin(), total.end(), 0.0);
    std::fill(weight.begin(), weight.end(), 0.0);
    std::fill(spans.begin(), spans.end(), 0.0);
    std::fill(answered.begin(), answered.end(), 0);
    for (size_t j = 0; j < columns.size(); ++j) {
      const bool reversed = !NumericVector::is_na(turn[j]);
      const double turned = turn[j], from_low = low[j], times = weights[j], wide = times * span[j];
      for (R_xlen_t i = 0; i < size; ++i) {
        const double x = columns[j].at(from + i);
        if (std::isnan(x)) continue;
        total[i] += times * ((reversed ? turned - x : x) - from_low);
        weight[i] += times;
        spans[i] += wide;
        ++answered[i];
      }
    }
    for (R_xlen_t i = 0; i < size; ++i) {
      double score = total[i];
      if (take == "mean") score = total[i] / weight[i];
      else if (take == "percent") score = 100 * total[i] / spans[i];
      else if (answered[i] < (int) columns.size()) score = total[i] / weight[i] * whole;
      out[from + i] = answered[i] < least || std::isnan(score) ? NA_REAL : score;
    }
  }
  return out;
}

// Means and covariances of the rows (counted from 1) that answered all items, n,
// mean and sd of each item alone, and how many rows gave one answer to all.

// [[Rcpp::export]]
List scale_moments(List items, NumericVector turn, IntegerVector rows) {
  const std::vector<Column> columns = columns_of(items);
  const int k = (int) columns.size();
  std::vector<double> x(k), shift(k, NAN), sum(k), own(k), square(k), cross(k * k);
  std::vector<double> count(k);
  double complete = 0, straight = 0;
  std::vector<char> turned(k);
  for (int j = 0; j < k; ++j) turned[j] = !NumericVector::is_na(turn[j]);
  const double* turns = turn.begin();
  for (R_xlen_t r = 0; r < rows.size(); ++r) {
    const R_xlen_t i = rows[r] - 1;
    int have = 0;
    bool same = true;
    double first = NAN;
    for (int j = 0; j < k; ++j) {
      const double raw = columns[j].at(i);
      x[j] = turned[j] ? turns[j] - raw : raw;
      if (std::isnan(raw)) { same = false; continue; }
      if (have == 0) first = raw; else if (raw != first) same = false;
      ++have;
      // Sums around a value of its own lose no digits.
      if (std::isnan(shift[j])) shift[j] = x[j];
      const double d = x[j] - shift[j];
      ++count[j]; own[j] += d; square[j] += d * d;
    }
    if (have < k) continue;
    ++complete;
    if (same) ++straight;
    for (int j = 0; j < k; ++j) {
      const double d = x[j] - shift[j];
      sum[j] += d;
      for (int l = 0; l <= j; ++l) cross[j * k + l] += d * (x[l] - shift[l]);
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
