#include <Rcpp.h>
#include "cells.h"
using namespace Rcpp;

namespace {

SEXP text_of(const char* at, size_t size) { return Rf_mkCharLenCE(at, (int) size, CE_UTF8); }

List column_of(cells::Column& column) {
  CharacterVector distinct(column.texts.known.size());
  for (size_t i = 0; i < column.texts.known.size(); ++i) {
    SET_STRING_ELT(distinct, i, text_of(column.texts.known[i].at, column.texts.known[i].size));
  }
  column.texts = cells::Texts();
  R_xlen_t n = 0;
  column.places.each([&](uint32_t) { ++n; });
  IntegerVector index = no_init(n);
  int* out = INTEGER(index);
  column.places.each([&](uint32_t place) { *out++ = (int) place + 1; });
  column.places = cells::Places();
  return List::create(_["cells"] = distinct, _["index"] = index);
}

}

// The heading rows and, for each column, its distinct cells and an index; or what is
// wrong with the file, and on which line.

// [[Rcpp::export]]
List read_cells(std::string path, std::string delimiter, int skip, int heads, int spans = 1, double smallest = 3e7) {
  cells::Part whole = cells::read_file(path.c_str(), (unsigned char) delimiter[0], skip, heads, spans, smallest, []() { checkUserInterrupt(); });
  List head(whole.head.size()), columns(whole.columns.size());
  for (size_t r = 0; r < whole.head.size(); ++r) {
    CharacterVector row(whole.head[r].size());
    for (size_t k = 0; k < whole.head[r].size(); ++k) SET_STRING_ELT(row, k, text_of(whole.head[r][k].data(), whole.head[r][k].size()));
    head[r] = row;
  }
  if (whole.trouble.kind.empty()) for (size_t k = 0; k < whole.columns.size(); ++k) columns[k] = column_of(whole.columns[k]);
  return List::create(
    _["problem"] = whole.trouble.kind, _["line"] = whole.trouble.line, _["found"] = whole.trouble.found,
    _["expected"] = whole.expected, _["lines"] = IntegerVector(whole.lines.begin(), whole.lines.end()),
    _["heading"] = head, _["columns"] = columns);
}
