#include <Rcpp.h>
#include <cstdint>
#include <vector>
using namespace Rcpp;

// The distinct strings of a vector in order of appearance and, for each
// element after the first `skip`, its place among them. R keeps one object per distinct string and
// encoding, so addresses can stand for the text once all are UTF-8.

// [[Rcpp::export]]
List distinct_cells(CharacterVector x, int skip = 0) {
  R_xlen_t n = std::max<R_xlen_t>(x.size() - skip, 0);
  IntegerVector index = no_init(n);
  const SEXP* text = STRING_PTR_RO(x) + skip;
  std::vector<SEXP> seen;
  size_t size = 1024;
  std::vector<int> slot(size, 0);
  auto place = [&](SEXP s) {
    uint64_t h = (uint64_t) (uintptr_t) s;
    h = (h >> 4) * 0x9E3779B97F4A7C15ULL;
    return (size_t) (h >> 20) & (size - 1);
  };
  int* out = INTEGER(index);
  SEXP last = nullptr;
  int last_id = 0;
  for (R_xlen_t i = 0; i < n; ++i) {
    SEXP s = text[i];
    if (s == last) { out[i] = last_id; continue; }
    size_t at = place(s);
    while (slot[at] && seen[slot[at] - 1] != s) at = (at + 1) & (size - 1);
    if (!slot[at]) {
      seen.push_back(s);
      slot[at] = (int) seen.size();
      if (seen.size() * 2 > size) {
        size *= 4;
        slot.assign(size, 0);
        for (size_t j = 0; j < seen.size(); ++j) {
          size_t b = place(seen[j]);
          while (slot[b]) b = (b + 1) & (size - 1);
          slot[b] = (int) j + 1;
        }
        at = place(s);
        while (seen[slot[at] - 1] != s) at = (at + 1) & (size - 1);
      }
    }
    last = s;
    last_id = out[i] = slot[at];
  }
  CharacterVector cells(seen.size());
  for (size_t j = 0; j < seen.size(); ++j) SET_STRING_ELT(cells, j, seen[j]);
  return List::create(_["cells"] = cells, _["index"] = index);
}
