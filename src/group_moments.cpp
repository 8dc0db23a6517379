// Sums over the rows of a table's groups, in one pass each; rows whose group is missing
// count nowhere.

#include <Rcpp/Lighter>
using namespace Rcpp;

// How often each pair of 1..size and 1..groups occurs: a row a value, a column a group.
// [[Rcpp::export(rng = false)]]
IntegerMatrix pair_counts(IntegerVector value, IntegerVector group, int size, int groups) {
  IntegerMatrix out(size, groups);
  int* to = out.begin();
  const int *v = value.begin(), *g = group.begin();
  const R_xlen_t rows = value.size();
  for (R_xlen_t i = 0; i < rows; ++i)
    if (v[i] != NA_INTEGER && g[i] != NA_INTEGER) ++to[v[i] - 1 + (R_xlen_t) size * (g[i] - 1)];
  return out;
}

// The same, of weights.
// [[Rcpp::export(rng = false)]]
NumericMatrix pair_weights(IntegerVector value, IntegerVector group, NumericVector weight, int size, int groups) {
  NumericMatrix out(size, groups);
  double* to = out.begin();
  const int *v = value.begin(), *g = group.begin();
  const R_xlen_t rows = value.size();
  for (R_xlen_t i = 0; i < rows; ++i)
    if (v[i] != NA_INTEGER && g[i] != NA_INTEGER) to[v[i] - 1 + (R_xlen_t) size * (g[i] - 1)] += weight[i];
  return out;
}

// The sum of weights in each cell 1..size.
// [[Rcpp::export(rng = false)]]
NumericVector group_weights(IntegerVector cell, NumericVector weight, int size) {
  std::vector<long double> sums(size, 0.0L);
  for (R_xlen_t i = 0; i < cell.size(); ++i)
    if (cell[i] != NA_INTEGER) sums[cell[i] - 1] += weight[i];
  return NumericVector(sums.begin(), sums.end());
}

// For each group of 1..size: n, sum of weights, sum of squared weights, weighted mean, weighted
// sum of squares about it, smallest and largest value. No weights (length 0) are all 1.
// [[Rcpp::export(rng = false)]]
NumericMatrix group_moments(NumericVector value, IntegerVector group, int size, NumericVector weight) {
  const bool plain = weight.size() == 0;
  std::vector<double> sw(size, 0), sww(size, 0);
  std::vector<long double> swx(size, 0.0L), ss(size, 0.0L);
  std::vector<double> n(size, 0), low(size, R_PosInf), high(size, R_NegInf), mean(size, NA_REAL);
  const R_xlen_t rows = value.size();
  for (R_xlen_t i = 0; i < rows; ++i) {
    if (group[i] == NA_INTEGER || ISNAN(value[i])) continue;
    const int g = group[i] - 1;
    const double w = plain ? 1.0 : weight[i];
    n[g] += 1;
    sw[g] += w;
    sww[g] += w * w;
    swx[g] += (long double) w * value[i];
    if (value[i] < low[g]) low[g] = value[i];
    if (value[i] > high[g]) high[g] = value[i];
  }
  for (int g = 0; g < size; ++g) if (sw[g] > 0) mean[g] = (double) (swx[g] / sw[g]);
  for (R_xlen_t i = 0; i < rows; ++i) {
    if (group[i] == NA_INTEGER || ISNAN(value[i])) continue;
    const int g = group[i] - 1;
    const long double off = (long double) value[i] - mean[g];
    ss[g] += (plain ? 1.0L : (long double) weight[i]) * off * off;
  }
  NumericMatrix out(size, 7);
  for (int g = 0; g < size; ++g) {
    out(g, 0) = n[g];
    out(g, 1) = (double) sw[g];
    out(g, 2) = (double) sww[g];
    out(g, 3) = mean[g];
    out(g, 4) = n[g] > 0 ? (double) ss[g] : NA_REAL;
    out(g, 5) = n[g] > 0 ? low[g] : NA_REAL;
    out(g, 6) = n[g] > 0 ? high[g] : NA_REAL;
  }
  return out;
}
