#include <Rcpp/Lighter>
#include <algorithm>
#include <cstdint>
#include <cstring>
#include <vector>
#include "run.h"
using namespace Rcpp;

// Which of many values stand more than once.

namespace {

// The bits of a number, each of them spread over all.
uint64_t stirred(uint64_t word) {
  word *= 0x9E3779B97F4A7C15ULL;
  word ^= word >> 32;
  word *= 0xD6E8FEB86659FD93ULL;
  return word ^ (word >> 29);
}

// Rows are taken in so many rounds that the table of one, for about `most` of them, stays small: in
// each those whose number falls to it.
struct Rounds {
  uint64_t count;
  int bits = 6;
  Rounds(R_xlen_t n, R_xlen_t most) : count((uint64_t) std::max<R_xlen_t>(1, (n + most - 1) / most)) {
    while ((size_t) 1 << bits < 2 * (size_t) n / count) ++bits;
  }
  size_t size() const { return (size_t) 1 << bits; }
  bool falls_to(uint64_t number, uint64_t round) const { return count == 1 || (uint32_t) number % count == round; }
  size_t slot(uint64_t number) const { return (size_t) (number >> (64 - bits)); }
};

// A table of rows, found by what stands in them: `word` gives a row's.
template <class Word> IntegerVector repeated(R_xlen_t n, R_xlen_t most, Word word) {
  const Rounds rounds(n, most);
  std::vector<bool> again(n);
  const R_xlen_t ahead = 16;
  R_xlen_t found = 0;
  auto tell = [&](R_xlen_t i) { if (!again[i]) { again[i] = true; ++found; } };
  for (uint64_t round = 0; round < rounds.count; ++round) {
    std::vector<int> first(rounds.size(), -1);
    for (R_xlen_t i = 0; i < n; ++i) {
#ifdef __GNUC__
      if (i + ahead < n) __builtin_prefetch(&first[rounds.slot(stirred(word(i + ahead)))], 1);
#endif
      const uint64_t number = stirred(word(i));
      if (!rounds.falls_to(number, round)) continue;
      for (size_t at = rounds.slot(number);; at = (at + 1) & (first.size() - 1)) {
        if (first[at] < 0) { first[at] = (int) i; break; }
        if (word(first[at]) != word(i)) continue;
        tell(first[at]);
        tell(i);
        break;
      }
    }
  }
  IntegerVector out = no_init(found);
  for (R_xlen_t i = 0, k = 0; k < found; ++i) if (again[i]) out[k++] = (int) i + 1;
  return out;
}

// A number for a text's bytes, the same for the same text.
uint64_t text_number(const Rbyte* at, size_t size) {
  uint64_t number = size, word;
  for (; size > 0; at += std::min<size_t>(8, size), size -= std::min<size_t>(8, size)) {
    word = 0;
    std::memcpy(&word, at, std::min<size_t>(8, size));
    number = stirred(number ^ word);
  }
  return number;
}

// The same of texts in a run. A slot has some of the number too, so that few texts are compared.
IntegerVector repeated_texts(const Run& run, R_xlen_t most) {
  struct Slot { int row; uint32_t mark; };
  const Rounds rounds(run.n, most);
  std::vector<bool> again(run.n);
  for (uint64_t round = 0; round < rounds.count; ++round) {
    std::vector<Slot> first(rounds.size(), Slot{-1, 0});
    run.each([&](R_xlen_t row, const Rbyte* text, size_t size) {
      const uint64_t number = text_number(text, size);
      if (!rounds.falls_to(number, round)) return;
      const uint32_t mark = (uint32_t) number;
      for (size_t at = rounds.slot(number);; at = (at + 1) & (first.size() - 1)) {
        if (first[at].row < 0) { first[at] = Slot{(int) row, mark}; break; }
        if (first[at].mark != mark || std::strcmp((const char*) run.at(first[at].row), (const char*) text) != 0) continue;
        again[first[at].row] = again[row] = true;
        break;
      }
    });
  }
  IntegerVector out = no_init(std::count(again.begin(), again.end(), true));
  for (R_xlen_t i = 0, k = 0; k < out.size(); ++i) if (again[i]) out[k++] = (int) i + 1;
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
// About `most` of them are known at once.

// [[Rcpp::export]]
IntegerVector repeated_rows(SEXP x, double most = 4e6) {
  const R_xlen_t n = Rf_xlength(x);
  Run run;
  if (look_into_run(x, run)) return repeated_texts(run, (R_xlen_t) most);
  if (TYPEOF(x) == STRSXP) {
    const SEXP* text = STRING_PTR_RO(x);
    bool plain = true;
    for (R_xlen_t i = 0; i < n && plain; ++i) plain = held_once(text[i]);
    if (plain) return repeated(n, (R_xlen_t) most, [text](R_xlen_t i) { return (uint64_t) (uintptr_t) text[i]; });
    CharacterVector marked(n);
    for (R_xlen_t i = 0; i < n; ++i) SET_STRING_ELT(marked, i, text[i] == NA_STRING ?
      NA_STRING : Rf_mkCharCE(Rf_translateCharUTF8(text[i]), CE_UTF8));
    text = STRING_PTR_RO(marked);
    return repeated(n, (R_xlen_t) most, [text](R_xlen_t i) { return (uint64_t) (uintptr_t) text[i]; });
  }
  const double* number = REAL_RO(x);
  return repeated(n, (R_xlen_t) most, [number](R_xlen_t i) {
    uint64_t word;
    std::memcpy(&word, &number[i], 8);
    return word;
  });
}
