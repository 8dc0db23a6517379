#include <Rcpp/Lighter>
#include <algorithm>
#include <cstring>
#include <numeric>
#include <vector>
#include "run.h"
using namespace Rcpp;

// Texts one behind the other in one run of bytes, each closed by a zero: what holds a million of
// them is read in the time of its bytes, and no text is made that nobody asks for. A gap is a byte
// that UTF-8 does not have.

namespace {

SEXP text_of(const Rbyte* from, const Rbyte* to) {
  if (to - from == 1 && *from == Run::gap) return NA_STRING;
  return Rf_mkCharLenCE((const char*) from, (int) (to - from), CE_UTF8);
}

}

// [[Rcpp::export]]
RawVector pack_texts(CharacterVector texts) {
  std::vector<Rbyte> out;
  for (R_xlen_t i = 0; i < texts.size(); ++i) {
    if (texts[i] == NA_STRING) out.push_back(Run::gap);
    else {
      const char* text = Rf_translateCharUTF8(texts[i]);
      out.insert(out.end(), text, text + std::strlen(text));
    }
    out.push_back(0);
  }
  return RawVector(out.begin(), out.end());
}

// [[Rcpp::export]]
CharacterVector unpack_texts(RawVector packed) {
  const Rbyte *from = packed.begin(), *end = packed.end();
  CharacterVector out(std::count(from, end, 0));
  R_xlen_t row = 0;
  for (const Rbyte* to; (to = Run::close_of(from, end)); from = to + 1) SET_STRING_ELT(out, row++, text_of(from, to));
  return out;
}

// The texts of some rows, NA for rows that are NA or behind the last.
// [[Rcpp::export]]
CharacterVector packed_at(RawVector packed, IntegerVector rows) {
  CharacterVector out(rows.size(), NA_STRING);
  std::vector<R_xlen_t> order(rows.size());
  std::iota(order.begin(), order.end(), 0);
  std::stable_sort(order.begin(), order.end(), [&](R_xlen_t a, R_xlen_t b) { return rows[a] < rows[b]; });
  const Rbyte *from = packed.begin(), *end = packed.end();
  const Rbyte* to = Run::close_of(from, end);
  int row = 1;
  for (R_xlen_t k : order) {
    if (rows[k] == NA_INTEGER || rows[k] < 1) continue;
    for (; to && row < rows[k]; ++row) { from = to + 1; to = Run::close_of(from, end); }
    if (to) SET_STRING_ELT(out, k, text_of(from, to));
  }
  return out;
}

// The rows that hold a text.
// [[Rcpp::export]]
IntegerVector packed_rows(RawVector packed, String text) {
  std::vector<int> out;
  const char* wanted = Rf_translateCharUTF8(text.get_sexp());
  const size_t size = std::strlen(wanted);
  const Rbyte *from = packed.begin(), *end = packed.end();
  int row = 1;
  for (const Rbyte* to; (to = Run::close_of(from, end)); from = to + 1, ++row) {
    if ((size_t) (to - from) == size && std::memcmp(from, wanted, size) == 0) out.push_back(row);
  }
  return IntegerVector(out.begin(), out.end());
}
