#include <Rcpp.h>
#include <cerrno>
#include <charconv>
#include <cmath>
#include <cstdint>
#include <cstdio>
#include <cstring>
#include <string>
#include <thread>
#include <vector>
#include "mapped.h"
using namespace Rcpp;

// A table as comma-separated lines, verbatim: numbers in their shortest exact form,
// texts in quotes only where they need them, a gap as nothing. Blocks of rows become
// bytes in several threads and are written in their order.

namespace {

// Growing that grow; each cell says first how much it may take.
class Growing {
  std::vector<char> held = std::vector<char>(1 << 16);
  size_t used = 0;
public:
  char* room(size_t size) {
    if (used + size > held.size()) held.resize(2 * (used + size));
    return held.data() + used;
  }
  void until(const char* end) { used = (size_t) (end - held.data()); }
  void add(char c) { *room(1) = c; ++used; }
  void clear() { used = 0; }
  const char* data() const { return held.data(); }
  size_t size() const { return used; }
};

// What a column holds, with nothing of R touched while it is written.
struct Shown {
  enum Kind { WHOLE, NUMBER, TEXT, LISTED } kind = WHOLE;
  const int* whole = nullptr;
  const double* number = nullptr;
  const SEXP* text = nullptr;
  std::vector<std::string> listed;
};

// Numbers come again: the last one with the same bits at its place is copied.
struct Known { uint64_t bits; char size; char text[31]; };

void add_text(Growing& out, const char* text, size_t size) {
  char* p = out.room(2 * size + 2);
  bool plain = true;
  for (size_t i = 0; i < size; ++i) plain &= text[i] != ',' && text[i] != '"' && text[i] != '\n' && text[i] != '\r';
  if (plain) { std::memcpy(p, text, size); out.until(p + size); return; }
  *p++ = '"';
  for (size_t i = 0; i < size; ++i) { *p++ = text[i]; if (text[i] == '"') *p++ = '"'; }
  *p++ = '"';
  out.until(p);
}

// Texts as they stand in the file; a gap is nothing.
void list_texts(std::vector<std::string>& listed, SEXP texts) {
  const R_xlen_t n = Rf_xlength(texts);
  listed.reserve(n);
  Growing one;
  for (R_xlen_t i = 0; i < n; ++i) {
    one.clear();
    if (STRING_ELT(texts, i) != NA_STRING) {
      const char* text = Rf_translateCharUTF8(STRING_ELT(texts, i));
      add_text(one, text, std::strlen(text));
    }
    listed.emplace_back(one.data(), one.size());
  }
}

void add_number(Growing& out, double value, std::vector<Known>& known) {
  if (!std::isfinite(value)) return;
  char* p = out.room(512);
  const double size = std::fabs(value);
  if (size < 1e9 && value == std::floor(value)) {
    out.until(std::to_chars(p, p + 512, (int) value).ptr);
    return;
  }
  uint64_t bits;
  std::memcpy(&bits, &value, 8);
  Known& slot = known[(bits * 0x9E3779B97F4A7C15ULL) >> 54];
  if (slot.size > 0 && slot.bits == bits) { std::memcpy(p, slot.text, 31); out.until(p + slot.size); return; }
  const auto form = size >= 1e-5 && size < 1e15 ? std::chars_format::fixed : std::chars_format::scientific;
  char* end = std::to_chars(p, p + 512, value, form).ptr;
  if (end - p <= 31) { slot.bits = bits; slot.size = (char) (end - p); std::memcpy(slot.text, p, end - p); }
  out.until(end);
}

inline void add_whole(Growing& out, int value) {
  char* p = out.room(16);
  if (value >= 0 && value < 10) { *p = (char) ('0' + value); out.until(p + 1); return; }
  out.until(std::to_chars(p, p + 16, value).ptr);
}

void add_cell(Growing& out, const Shown& column, R_xlen_t row, std::vector<Known>& known) {
  switch (column.kind) {
    case Shown::WHOLE: if (column.whole[row] != NA_INTEGER) add_whole(out, column.whole[row]); break;
    case Shown::NUMBER: add_number(out, column.number[row], known); break;
    case Shown::TEXT:
      if (column.text[row] != NA_STRING) add_text(out, CHAR(column.text[row]), (size_t) LENGTH(column.text[row]));
      break;
    case Shown::LISTED:
      if (column.whole[row] != NA_INTEGER) {
        const std::string& text = column.listed[column.whole[row] - 1];
        char* p = out.room(text.size());
        std::memcpy(p, text.data(), text.size());
        out.until(p + text.size());
      }
      break;
  }
}

}

// Columns are integers, doubles, texts or factors; `rows` (from 1) are those written,
// all if NULL. They go behind what stands in the file where it is to `append`. Returns what
// went wrong, "" if nothing.

// [[Rcpp::export]]
std::string write_rows(std::string path, CharacterVector names, List columns, Nullable<IntegerVector> rows, int threads, bool append = false) {
  std::vector<Shown> shown(columns.size());
  R_xlen_t n = 0;
  for (R_xlen_t k = 0; k < columns.size(); ++k) {
    SEXP column = columns[k];
    n = Rf_xlength(column);
    if (Rf_isFactor(column)) {
      shown[k].kind = Shown::LISTED;
      shown[k].whole = INTEGER(column);
      list_texts(shown[k].listed, Rf_getAttrib(column, R_LevelsSymbol));
    } else if (TYPEOF(column) == INTSXP) {
      shown[k].whole = INTEGER(column);
    } else if (TYPEOF(column) == REALSXP) {
      shown[k].kind = Shown::NUMBER;
      shown[k].number = REAL(column);
    } else if (!Rf_isNull(listed_parts(column))) {
      List parts = listed_parts(column);
      shown[k].kind = Shown::LISTED;
      shown[k].whole = INTEGER_RO(parts["index"]);
      list_texts(shown[k].listed, parts["known"]);
    } else {
      shown[k].kind = Shown::TEXT;
      shown[k].text = STRING_PTR_RO(column);
    }
  }
  const int* at = nullptr;
  if (rows.isNotNull()) {
    IntegerVector which(rows);
    at = which.begin();
    n = which.size();
  }

  std::FILE* file = std::fopen(path.c_str(), append ? "ab" : "wb");
  if (!file) return std::strerror(errno);
  std::string problem;
  Growing head;
  for (R_xlen_t k = 0; k < names.size(); ++k) {
    if (k > 0) head.add(',');
    add_text(head, CHAR(STRING_ELT(names, k)), (size_t) LENGTH(STRING_ELT(names, k)));
  }
  head.add('\n');
  auto write = [&](const Growing& bytes) {
    if (problem.empty() && std::fwrite(bytes.data(), 1, bytes.size(), file) != bytes.size()) problem = std::strerror(errno);
  };
  if (!append) write(head);
  const R_xlen_t block = 4096;
  threads = std::max(1, threads);
  std::vector<Growing> bytes(threads);
  std::vector<std::vector<Known>> known(threads, std::vector<Known>(1024, Known{0, 0, {0}}));
  auto fill = [&](int t, R_xlen_t from, R_xlen_t to) {
    Growing& out = bytes[t];
    out.clear();
    for (R_xlen_t i = from; i < to; ++i) {
      const R_xlen_t row = at ? at[i] - 1 : i;
      for (size_t k = 0; k < shown.size(); ++k) {
        if (k > 0) out.add(',');
        add_cell(out, shown[k], row, known[t]);
      }
      out.add('\n');
    }
  };
  R_xlen_t passed = 0;
  for (R_xlen_t from = 0; from < n && problem.empty(); from += threads * block) {
    std::vector<std::thread> beside;
    for (int t = 1; t < threads; ++t) {
      const R_xlen_t start = std::min(n, from + t * block), end = std::min(n, start + block);
      beside.emplace_back([&, t, start, end]() { fill(t, start, end); });
    }
    fill(0, from, std::min(n, from + block));
    for (std::thread& thread : beside) thread.join();
    for (const Growing& one : bytes) write(one);
    // What lies in files is passed over once: it need not stay in memory.
    passed += threads * block;
    if (passed > (1 << 18)) { rest_mapped(); passed = 0; }
  }
  if (std::fflush(file) != 0 && problem.empty()) problem = std::strerror(errno);
  if (std::fclose(file) != 0 && problem.empty()) problem = std::strerror(errno);
  return problem;
}
