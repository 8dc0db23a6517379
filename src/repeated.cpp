#include <Rcpp/Lighter>
#include <cstdint>
#include <cstring>
#include <vector>
using namespace Rcpp;

// Which of many values stand more than once.

namespace {

// A table of rows, found by what stands in them: `word` gives a row's.
template <class Word> IntegerVector repeated(R_xlen_t n, Word word) {
  size_t size = 64;
  int bits = 6;
  while (size < 2 * (size_t) n) { size *= 2; ++bits; }
  std::vector<int> first(size, -1);
  std::vector<bool> again(n);
  const R_xlen_t ahead = 16;
  auto slot_of = [&](R_xlen_t i) { return (size_t) ((word(i) * 0x9E3779B97F4A7C15ULL) >> (64 - bits)); };
  R_xlen_t found = 0;
  auto tell = [&](R_xlen_t i) { if (!again[i]) { again[i] = true; ++found; } };
  for (R_xlen_t i = 0; i < n; ++i) {
#ifdef __GNUC__
    if (i + ahead < n) __builtin_prefetch(&first[slot_of(i + ahead)], 1);
#endif
    for (size_t at = slot_of(i);; at = (at + 1) & (size - 1)) {
      if (first[at] < 0) { first[at] = (int) i; break; }
      if (word(first[at]) != word(i)) continue;
      tell(first[at]);
      tell(i);
      break;
    }
  }
  IntegerVector out = no_init(found);
  for (R_xlen_t i = 0, k = 0; k < found; ++i) if (again[i]) out[k++] = (int) i + 1;
  return out;
}

// R holds a text once; only one in another encoding may stand twice.
bool held_once(SEXP text) {
  const cetype_t encoding = Rf_getCharCE(text);
  if (encoding == CE_UTF8) return true;
  if (encoding != CE_NATIVE) return false;
  for (const char* at = CHAR(text); *at; ++at) if ((unsigned char) *at >= 128) return false;
  return true;
}

}

// The rows (from 1) of a text, or a number, that stands in another row as well; gaps are alike.

// [[Rcpp::export]]
IntegerVector repeated_rows(SEXP x) {
  const R_xlen_t n = Rf_xlength(x);
  if (TYPEOF(x) == STRSXP) {
    const SEXP* text = STRING_PTR_RO(x);
    bool plain = true;
    for (R_xlen_t i = 0; i < n && plain; ++i) plain = held_once(text[i]);
    if (plain) return repeated(n, [text](R_xlen_t i) { return (uint64_t) (uintptr_t) text[i]; });
    CharacterVector marked(n);
    for (R_xlen_t i = 0; i < n; ++i) SET_STRING_ELT(marked, i, text[i] == NA_STRING ?
      NA_STRING : Rf_mkCharCE(Rf_translateCharUTF8(text[i]), CE_UTF8));
    text = STRING_PTR_RO(marked);
    return repeated(n, [text](R_xlen_t i) { return (uint64_t) (uintptr_t) text[i]; });
  }
  const double* number = REAL_RO(x);
  return repeated(n, [number](R_xlen_t i) {
    uint64_t word;
    std::memcpy(&word, &number[i], 8);
    return word;
  });
}
