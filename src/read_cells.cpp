#include <Rcpp/Lighter>
#include <exception>
#include "cells.h"
#include "looked.h"
#include "run.h"
using namespace Rcpp;

namespace {

SEXP text_of(const char* at, size_t size) { return Rf_mkCharLenCE(at, (int) size, CE_UTF8); }

// What is done in another thread while this one works for R, which may leave by an error.
class Beside {
  std::exception_ptr failed;
  std::thread thread;
public:
  template <class Work> explicit Beside(Work work) : thread([this, work]() {
    try { work(); } catch (...) { failed = std::current_exception(); }
  }) {}
  ~Beside() { if (thread.joinable()) thread.join(); }
  void wait() {
    thread.join();
    if (failed) std::rethrow_exception(failed);
  }
};

// So many texts that hardly ever come again, as keys are, stay one run of bytes until somebody looks
// at the whole: to make R's of them takes longer than to read them.
const size_t many_texts = 100000;

SEXP run_of(const cells::Texts& texts) {
  size_t size = 0;
  for (const auto& text : texts.known) size += text.size + 1;
  RawVector packed = no_init((R_xlen_t) size);
  Rbyte* to = packed.begin();
  for (const auto& text : texts.known) {
    std::memcpy(to, text.at, text.size);
    to += text.size;
    *to++ = 0;
  }
  return run_texts(packed);
}

SEXP distinct_of(const cells::Texts& texts, size_t rows) {
  if (texts.known.size() >= many_texts && texts.known.size() > rows / 2) return run_of(texts);
  CharacterVector out(texts.known.size());
  for (size_t i = 0; i < texts.known.size(); ++i) SET_STRING_ELT(out, i, text_of(texts.known[i].at, texts.known[i].size));
  return out;
}

// Distinct cells, and the index in bytes where one holds each place. Several threads fill the
// indexes that were made for them, and touch nothing else of R.
void columns_of(const std::vector<cells::Column*>& columns, List& out, int threads) {
  std::vector<Rbyte*> narrow;
  std::vector<int*> wide;
  for (size_t k = 0; k < columns.size(); ++k) {
    narrow.push_back(nullptr);
    wide.push_back(nullptr);
    if (!columns[k]) continue;
    const bool bytes = columns[k]->texts.known.size() <= UINT8_MAX;
    const Shield<SEXP> index(Rf_allocVector(bytes ? RAWSXP : INTSXP, (R_xlen_t) columns[k]->size()));
    out[k] = List::create(_["cells"] = R_NilValue, _["index"] = index);
    if (bytes) narrow[k] = RAW(index);
    else wide[k] = INTEGER(index);
  }
  auto fill = [&](size_t k, int) {
    if (narrow[k]) columns[k]->fill(narrow[k]);
    if (wide[k]) columns[k]->fill(wide[k]);
    if (columns[k]) columns[k]->pieces.clear();
  };
  auto texts = [&]() {
    for (size_t k = 0; k < columns.size(); ++k) {
      if (!columns[k]) continue;
      List column = out[k];
      column["cells"] = distinct_of(columns[k]->texts, columns[k]->size());
      columns[k]->texts = cells::Texts();
    }
  };
  if (threads < 2) {
    for (size_t k = 0; k < columns.size(); ++k) fill(k, 0);
    return texts();
  }
  Beside filling([&]() { cells::share(columns.size(), threads - 1, fill); });
  unwindProtect([&]() { texts(); return R_NilValue; });
  filling.wait();
}

List head_of(const cells::Part& part) {
  List head(part.head.size());
  for (size_t r = 0; r < part.head.size(); ++r) {
    CharacterVector row(part.head[r].size());
    for (size_t k = 0; k < part.head[r].size(); ++k) SET_STRING_ELT(row, k, text_of(part.head[r][k].data(), part.head[r][k].size()));
    head[r] = row;
  }
  return head;
}

}

// The heading rows and, for each column, its distinct cells and an index; or what is
// wrong with the file, and on which line.

// [[Rcpp::export]]
List read_cells(std::string path, std::string delimiter, int skip, int heads, int threads = 1, double smallest = 3e7) {
  cells::Part whole = cells::read_file(cells::Part(), path.c_str(), (unsigned char) delimiter[0], skip, heads, cells::everything, threads, smallest, []() { checkUserInterrupt(); });
  List columns(whole.columns.size());
  if (whole.trouble.kind.empty()) {
    std::vector<cells::Column*> all;
    for (cells::Column& column : whole.columns) all.push_back(&column);
    columns_of(all, columns, threads);
    for (size_t k = 0; k < all.size(); ++k) {
      List column = columns[k];
      column["index"] = as_places(column["index"]);
    }
  }
  return List::create(
    _["problem"] = whole.trouble.kind, _["line"] = whole.trouble.line, _["found"] = whole.trouble.found,
    _["expected"] = whole.expected, _["lines"] = IntegerVector(whole.lines.begin(), whole.lines.end()),
    _["heading"] = head_of(whole), _["columns"] = columns);
}

// The records that begin in a span of bytes, `most` of them; of the columns those that are
// `wanted` (from 1). Lines count from the span's first; `expected` is the number of cells
// where it is known (else 0).

// [[Rcpp::export]]
List read_span(std::string path, std::string delimiter, int skip, int heads, double from, double to, int expected, IntegerVector wanted, double most, int threads = 1, double smallest = 3e7) {
  cells::Part first;
  first.from = from;
  first.expected = expected;
  if (R_FINITE(most)) first.most = (int) most;
  cells::Part part = cells::read_file(std::move(first), path.c_str(), (unsigned char) delimiter[0], skip, heads, R_FINITE(to) ? to : cells::everything, threads, smallest, []() { checkUserInterrupt(); });
  List columns(wanted.size());
  if (part.trouble.kind.empty()) {
    std::vector<cells::Column*> own;
    for (int column : wanted) own.push_back(column <= (int) part.columns.size() ? &part.columns[column - 1] : nullptr);
    columns_of(own, columns, threads);
  }
  return List::create(
    _["problem"] = part.trouble.kind, _["line"] = part.trouble.line, _["found"] = part.trouble.found,
    _["expected"] = part.expected, _["lines"] = IntegerVector(part.lines.begin(), part.lines.end()),
    _["heading"] = head_of(part), _["columns"] = columns, _["end"] = part.end, _["behind"] = part.line);
}

// Where records are likely to begin: behind the next line feed of each place.

// [[Rcpp::export]]
NumericVector likely_starts(std::string path, NumericVector from) {
  NumericVector out(from.size());
  for (R_xlen_t i = 0; i < from.size(); ++i) out[i] = cells::likely_start(path.c_str(), from[i]);
  return out;
}

// The index of several parts as one: `pieces` are indexes (bytes or integers), `places` where
// each part's distinct cells stand among all `size` of them.

// [[Rcpp::export]]
SEXP join_index(List pieces, List places, int size) {
  R_xlen_t n = 0;
  for (R_xlen_t k = 0; k < pieces.size(); ++k) n += Rf_xlength(pieces[k]);
  SEXP out = PROTECT(Rf_allocVector(size <= UINT8_MAX ? RAWSXP : INTSXP, n));
  Rbyte* narrow = TYPEOF(out) == RAWSXP ? RAW(out) : nullptr;
  int* wide = narrow ? nullptr : INTEGER(out);
  for (R_xlen_t k = 0; k < pieces.size(); ++k) {
    const Looked of = places_in(pieces[k]);
    IntegerVector among(places[k]);
    std::vector<int> to(among.size() + 1);
    std::copy(among.begin(), among.end(), to.begin() + 1);
    with_places(of, [&](auto place) {
      if (narrow) for (R_xlen_t i = 0; i < of.n; ++i) *narrow++ = (Rbyte) to[place(i)];
      else for (R_xlen_t i = 0; i < of.n; ++i) { const int at = to[place(i)]; *wide++ = at == 0 ? NA_INTEGER : at; }
    });
  }
  SEXP joined = as_places(out);
  UNPROTECT(1);
  return joined;
}

// Bytes as the integers that they stand for, other places as they are.

// [[Rcpp::export]]
SEXP as_places(SEXP index) {
  return TYPEOF(index) == RAWSXP ? looked_up(index, R_NilValue, R_NilValue, List()) : index;
}
