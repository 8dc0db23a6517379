#include <Rcpp/Lighter>
#include <charconv>
#include <cstdint>
#include <cstring>
#include <limits>
using namespace Rcpp;

// Whole numbers of 64 bits, which R users keep in the bits of doubles, as their
// digits; the lowest of them stands for a missing value and becomes blank.

// [[Rcpp::export]]
CharacterVector integer64_text(NumericVector x) {
  R_xlen_t n = x.size();
  CharacterVector out(n);
  char buffer[32];
  for (R_xlen_t i = 0; i < n; ++i) {
    double held = x[i];
    std::int64_t value;
    std::memcpy(&value, &held, sizeof value);
    if (value == std::numeric_limits<std::int64_t>::min()) continue;
    auto end = std::to_chars(buffer, buffer + sizeof buffer, value).ptr;
    SET_STRING_ELT(out, i, Rf_mkCharLenCE(buffer, (int) (end - buffer), CE_UTF8));
  }
  return out;
}
