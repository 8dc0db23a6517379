#include <Rcpp/Lighter>
#include <charconv>
#include <cmath>
#include <cstddef>
#include <cstring>
#include <string>
#include <vector>
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

// Numbers as a file writes them: digits, a sign, the decimal mark, an exponent, with
// spaces around them. NA for what is none, NaN for what holds more than ASCII and is
// looked at elsewhere.

// [[Rcpp::export]]
NumericVector number_plain(CharacterVector text, std::string mark) {
  const char point = mark[0];
  R_xlen_t n = text.size();
  NumericVector out(n, NA_REAL);
  char buffer[400];
  for (R_xlen_t i = 0; i < n; ++i) {
    SEXP cell = STRING_ELT(text, i);
    if (cell == NA_STRING) continue;
    const char *at = CHAR(cell), *end = at + LENGTH(cell);
    bool ascii = true;
    for (const char* p = at; p < end; ++p) ascii &= (unsigned char) *p < 0x80;
    if (!ascii) { out[i] = R_NaN; continue; }
    auto space = [](char c) { return c == ' ' || (c >= 9 && c <= 13); };
    while (at < end && space(*at)) ++at;
    while (end > at && space(end[-1])) --end;
    if (end - at >= (std::ptrdiff_t) sizeof buffer || at == end) { if (at != end) out[i] = R_NaN; continue; }
    char* to = buffer;
    auto digits = [&]() { int k = 0; while (at < end && *at >= '0' && *at <= '9') { *to++ = *at++; ++k; } return k; };
    if (*at == '+' || *at == '-') { if (*at == '-') *to++ = '-'; ++at; }
    int size = digits();
    if (at < end && *at == point) {
      *to++ = '.';
      ++at;
      const int more = digits();
      if (size == 0 && more == 0) continue;
      size += more;
    }
    if (size == 0) continue;
    if (at < end && (*at == 'e' || *at == 'E')) {
      *to++ = *at++;
      if (at < end && (*at == '+' || *at == '-')) *to++ = *at++;
      if (digits() == 0) continue;
    }
    if (at != end) continue;
    double value;
    auto got = std::from_chars(buffer, to, value);
    if (got.ec == std::errc() && got.ptr == to && std::isfinite(value)) out[i] = value == 0 ? 0 : value;
  }
  return out;
}

// Which texts may begin or end with a space of some kind.
// [[Rcpp::export]]
IntegerVector open_ends(CharacterVector text) {
  std::vector<int> out;
  for (R_xlen_t i = 0; i < text.size(); ++i) {
    SEXP cell = STRING_ELT(text, i);
    const int size = LENGTH(cell);
    if (cell == NA_STRING || size == 0) continue;
    const unsigned char first = (unsigned char) CHAR(cell)[0], last = (unsigned char) CHAR(cell)[size - 1];
    if (first <= 32 || first >= 0x80 || last <= 32 || last >= 0x80) out.push_back((int) i + 1);
  }
  return IntegerVector(out.begin(), out.end());
}
