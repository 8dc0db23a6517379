#include <Rcpp.h>
#include <cmath>
#include <vector>
using namespace Rcpp;

namespace {

// Integer or double columns alike; a gap is NaN.
struct Column {
  const int* whole = nullptr;
  const double* real = nullptr;
  explicit Column(SEXP x) {
    if (TYPEOF(x) == INTSXP) whole = INTEGER(x);
    else if (TYPEOF(x) == REALSXP) real = REAL(x);
    else stop("items must be numbers");
  }
  double at(R_xlen_t i) const {
    if (whole) return whole[i] == NA_INTEGER ? NAN : (double) whole[i];
    return real[i];
  }
};

std::vector<Column> columns_of(List items) {
  std::vector<Column> out;
  for (R_xlen_t j = 0; j < items.size(); ++j) out.emplace_back(items[j]);
  return out;
}

}

// Weighted sums over the answered items of each row: of the answers less `low`,
// of the weights, of the spans, and how many were answered. `turn` is the sum of
// an item's bounds where it is reversed, else NA.

// [[Rcpp::export]]
List score_sums(List items, NumericVector turn, NumericVector low, NumericVector span, NumericVector weights, double n) {
  const std::vector<Column> columns = columns_of(items);
  const R_xlen_t rows = (R_xlen_t) n;
  NumericVector total(rows), weight(rows), spans(rows);
  IntegerVector answered(rows);
  for (size_t j = 0; j < columns.size(); ++j) {
    const bool reversed = !NumericVector::is_na(turn[j]);
    for (R_xlen_t i = 0; i < rows; ++i) {
      double x = columns[j].at(i);
      if (std::isnan(x)) continue;
      if (reversed) x = turn[j] - x;
      total[i] += weights[j] * (x - low[j]);
      weight[i] += weights[j];
      spans[i] += weights[j] * span[j];
      ++answered[i];
    }
  }
  return List::create(_["total"] = total, _["weight"] = weight, _["span"] = spans, _["answered"] = answered);
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
