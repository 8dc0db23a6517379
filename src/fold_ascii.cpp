#include <Rcpp.h>
#include <cstring>
#include <string>
using namespace Rcpp;

// The folding of texts that are plain ASCII: small letters, ` as ', white space
// squeezed and trimmed. Other texts come back as NA, for the full folding.

// [[Rcpp::export]]
CharacterVector fold_ascii(CharacterVector x) {
  R_xlen_t n = x.size();
  CharacterVector out(n);
  std::string text;
  for (R_xlen_t i = 0; i < n; ++i) {
    SEXP cell = STRING_ELT(x, i);
    const char* from = CHAR(cell);
    bool plain = cell != NA_STRING, changed = false, space = false;
    text.clear();
    for (const char* at = from; *at && plain; ++at) {
      unsigned char c = (unsigned char) *at;
      if (c >= 128) { plain = false; break; }
      if (c == ' ' || (c >= 9 && c <= 13)) { space = true; continue; }
      if (space && !text.empty()) text += ' ';
      space = false;
      text += c >= 'A' && c <= 'Z' ? (char) (c + 32) : c == '`' ? '\'' : (char) c;
    }
    if (!plain) { SET_STRING_ELT(out, i, NA_STRING); continue; }
    changed = text != from;
    SET_STRING_ELT(out, i, changed ? Rf_mkCharLenCE(text.data(), (int) text.size(), CE_UTF8) : cell);
  }
  return out;
}
