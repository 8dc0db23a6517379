#include <Rcpp.h>
#include <charconv>
#include <cmath>
#include <cstring>
using namespace Rcpp;

// Exact both ways and blind to the locale: the nearest double to the written
// digits, and the fewest digits that read back to the same double.

// [[Rcpp::export]]
NumericVector number_parse(CharacterVector text) {
  R_xlen_t n = text.size();
  NumericVector out(n);
  for (R_xlen_t i = 0; i < n; ++i) {
    out[i] = NA_REAL;
    SEXP cell = STRING_ELT(text, i);
    if (cell == NA_STRING) continue;
    const char* first = CHAR(cell);
    const char* last = first + std::strlen(first);
    if (first != last && *first == '+') ++first;
    double value;
    auto got = std::from_chars(first, last, value);
    if (got.ec == std::errc() && got.ptr == last && std::isfinite(value)) out[i] = value == 0 ? 0 : value;
  }
  return out;
}

// [[Rcpp::export]]
CharacterVector number_write(NumericVector x) {
  R_xlen_t n = x.size();
  CharacterVector out(n);
  char buffer[512];
  for (R_xlen_t i = 0; i < n; ++i) {
    double value = x[i];
    if (!std::isfinite(value)) { SET_STRING_ELT(out, i, NA_STRING); continue; }
    double size = std::fabs(value);
    auto form = size == 0 || (size >= 1e-5 && size < 1e15) ? std::chars_format::fixed : std::chars_format::scientific;
    auto end = std::to_chars(buffer, buffer + sizeof buffer, value == 0 ? 0.0 : value, form).ptr;
    SET_STRING_ELT(out, i, Rf_mkCharLenCE(buffer, (int) (end - buffer), CE_UTF8));
  }
  return out;
}
