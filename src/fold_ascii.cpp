#include <Rcpp/Lighter>
#include <cstdint>
#include <cstring>
#include <string>
#include <unordered_set>
#include "run.h"
using namespace Rcpp;

// The folding of a text that is plain ASCII: small letters, ` as ', white space squeezed and
// trimmed. Whether it is.
static bool fold_plain(SEXP cell, std::string& text) {
  text.clear();
  if (cell == NA_STRING) return false;
  bool space = false;
  for (const char* at = CHAR(cell); *at; ++at) {
    unsigned char c = (unsigned char) *at;
    if (c >= 128) return false;
    if (c == ' ' || (c >= 9 && c <= 13)) { space = true; continue; }
    if (space && !text.empty()) text += ' ';
    space = false;
    text += c >= 'A' && c <= 'Z' ? (char) (c + 32) : c == '`' ? '\'' : (char) c;
  }
  return true;
}

// Texts that are not plain ASCII come back as NA, for the full folding.

// [[Rcpp::export]]
CharacterVector fold_ascii(CharacterVector x) {
  R_xlen_t n = x.size();
  CharacterVector out(n);
  std::string text;
  for (R_xlen_t i = 0; i < n; ++i) {
    SEXP cell = STRING_ELT(x, i);
    if (!fold_plain(cell, text)) { SET_STRING_ELT(out, i, NA_STRING); continue; }
    bool same = text == CHAR(cell);
    SET_STRING_ELT(out, i, same ? cell : Rf_mkCharLenCE(text.data(), (int) text.size(), CE_UTF8));
  }
  return out;
}

// Whether each text, folded, is one of a few words, without a text made of it; NA where it is not
// plain ASCII.

// [[Rcpp::export]]
LogicalVector fold_among(CharacterVector x, CharacterVector words) {
  std::unordered_set<std::string> known;
  for (R_xlen_t i = 0; i < words.size(); ++i) known.insert(CHAR(STRING_ELT(words, i)));
  LogicalVector out(x.size());
  std::string text;
  for (R_xlen_t i = 0; i < x.size(); ++i)
    out[i] = fold_plain(STRING_ELT(x, i), text) ? known.count(text) > 0 : NA_LOGICAL;
  return out;
}

// A number for the near form of each key (`text_near`), the same for keys that are near to each
// other, and no text made for it. Keys that are not plain ASCII come back as NA, unless they are
// near forms already (`made`).

// [[Rcpp::export]]
NumericVector near_numbers(SEXP x, bool made) {
  R_xlen_t n = Rf_xlength(x);
  NumericVector out(n);
  auto number = [&out, made](R_xlen_t i, const char* text) {
    uint64_t sum = 14695981039346656037ULL;
    bool plain = true, zero = false, begun = false;
    auto take = [&sum](unsigned char c) { sum = (sum ^ c) * 1099511628211ULL; };
    for (const char* at = text; *at && plain; ++at) {
      unsigned char c = (unsigned char) *at;
      if (c >= 128 && !made) plain = false;
      if (c == ' ' || (c >= 9 && c <= 13)) continue;
      if (!begun && c == '0') { zero = true; continue; }
      // A zero that no digit follows is no leading one.
      if (!begun && zero && !(c >= '0' && c <= '9')) take('0');
      begun = true;
      take(c >= 'A' && c <= 'Z' ? (unsigned char) (c + 32) : c == '`' ? '\'' : c);
    }
    if (!begun && zero) take('0');
    out[i] = plain ? (double) (sum >> 11) : NA_REAL;
  };
  Run run;
  if (look_into_run(x, run)) run.each([&number](R_xlen_t i, const Rbyte* text, size_t) { number(i, (const char*) text); });
  else for (R_xlen_t i = 0; i < n; ++i) number(i, CHAR(STRING_ELT(x, i)));
  return out;
}
