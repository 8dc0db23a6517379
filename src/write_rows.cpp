#include <Rcpp/Lighter>
#include <algorithm>
#include <cerrno>
#include <charconv>
#include <cmath>
#include <cstdint>
#include <cstdio>
#include <cstring>
#include <string>
#include <thread>
#include <vector>
#include "looked.h"
#include "mapped.h"
#include "run.h"
using namespace Rcpp;

// A table as comma-separated lines, verbatim: numbers in their shortest exact form,
// texts in quotes only where they need them, a gap as nothing. Blocks of rows become
// bytes in several threads and are written in their order.

namespace {

// Bytes that grow: who adds says first how much it may take.
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

// So many bytes of a text are copied at once, whatever its size.
constexpr size_t copied = 32;

// A text of few bytes with the comma behind it; sixteen bytes are copied whatever its size.
struct Short { char text[15]; uint8_t size; };

// What a column holds, with nothing of R touched while it is written. Of what is listed there
// are the places, in bytes or integers (0 or `NA` for a gap), and the texts that stand there,
// the gap's first, each with its comma, one behind the other in `bytes`; texts that are many beside
// the rows stay R's, or in their run.
struct Shown {
  enum Kind { WHOLE, NUMBER, TEXT, RUN, LISTED, SHORT } kind = WHOLE;
  Run run;
  const int* whole = nullptr;
  const uint8_t* narrow = nullptr;
  const double* number = nullptr;
  const SEXP* text = nullptr;
  std::vector<std::string> listed = std::vector<std::string>(1, ",");
  std::vector<Short> shorts;
  std::string bytes;
  std::vector<size_t> starts;
  size_t most = 64;
  size_t place(R_xlen_t row) const { return narrow ? narrow[row] : whole[row] == NA_INTEGER ? 0 : (size_t) whole[row]; }
  SEXP text_at(R_xlen_t row) const {
    if (!whole) return text[row];
    const size_t at = place(row);
    return at == 0 ? NA_STRING : text[at - 1];
  }
};

// Places of a few rows, fetched column by column: a row that goes to each column's own memory
// would find none of them in the nearest caches, since columns begin at the starts of pages.
constexpr R_xlen_t tile = 64;

// A text with its comma, behind which there are bytes that may be copied too.
struct Piece { const char* at; size_t size; };

// Neighbours of few short texts: what stands there together, and the place of each in that list.
struct Joint {
  std::vector<const uint8_t*> places;
  std::vector<size_t> sizes;
  std::vector<Short> texts;
  size_t longest = 0;
  explicit Joint(const Shown& column) : places(1, column.narrow), sizes(1, column.shorts.size()), texts(column.shorts), longest(longest_of(texts)) {}
  // Lists that outgrow the nearest cache would cost what they spare.
  bool joins(const Shown& column, size_t most) {
    const size_t longer = longest + longest_of(column.shorts);
    if (longer > 15 || texts.size() * column.shorts.size() > most) return false;
    std::vector<Short> both;
    for (const Short& before : texts) for (const Short& behind : column.shorts) {
      Short text = before;
      std::memcpy(text.text + before.size, behind.text, behind.size);
      text.size = (uint8_t) (before.size + behind.size);
      both.push_back(text);
    }
    texts.swap(both);
    places.push_back(column.narrow);
    sizes.push_back(column.shorts.size());
    longest = longer;
    return true;
  }
  static size_t longest_of(const std::vector<Short>& texts) {
    size_t out = 0;
    for (const Short& text : texts) out = std::max(out, (size_t) text.size);
    return out;
  }
};

// A column, or several joined, as a row needs it: of what is listed the places, or the texts, of
// the tile.
struct Near {
  const Shown* all;
  const Joint* joint;
  uint16_t* places;
  Piece* pieces;
};

std::vector<Joint> joints_of(const std::vector<Shown>& shown, size_t most) {
  std::vector<Joint> out;
  bool open = false;
  for (const Shown& column : shown) {
    const bool is_short = column.kind == Shown::SHORT;
    if (is_short && !(open && out.back().joins(column, most))) out.emplace_back(column);
    open = is_short;
  }
  return out;
}

// Numbers come again: the last one with the same bits at its place is copied.
struct Known { uint64_t bits; char size; char text[31]; };

char* add_text(char* p, const char* text, size_t size) {
  bool plain = true;
  for (size_t i = 0; i < size; ++i) plain &= text[i] != ',' && text[i] != '"' && text[i] != '\n' && text[i] != '\r';
  if (plain) { std::memcpy(p, text, size); return p + size; }
  *p++ = '"';
  for (size_t i = 0; i < size; ++i) { *p++ = text[i]; if (text[i] == '"') *p++ = '"'; }
  *p++ = '"';
  return p;
}

char* add_number(char* p, double value, std::vector<Known>& known) {
  if (!std::isfinite(value)) return p;
  const double size = std::fabs(value);
  if (size < 1e9 && value == std::floor(value)) return std::to_chars(p, p + 64, (int) value).ptr;
  uint64_t bits;
  std::memcpy(&bits, &value, 8);
  Known& slot = known[(bits * 0x9E3779B97F4A7C15ULL) >> 54];
  if (slot.size > 0 && slot.bits == bits) { std::memcpy(p, slot.text, 31); return p + slot.size; }
  const auto form = size >= 1e-5 && size < 1e15 ? std::chars_format::fixed : std::chars_format::scientific;
  char* end = std::to_chars(p, p + 64, value, form).ptr;
  if (end - p <= 31) { slot.bits = bits; slot.size = (char) (end - p); std::memcpy(slot.text, p, end - p); }
  return end;
}

inline char* add_whole(char* p, int value) {
  if (value >= 0 && value < 10) { *p = (char) ('0' + value); return p + 1; }
  return std::to_chars(p, p + 64, value).ptr;
}

// Texts as they stand in the file; a gap is nothing.
void list_texts(Shown& shown, SEXP texts) {
  const R_xlen_t n = Rf_xlength(texts);
  std::string held;
  for (R_xlen_t i = 0; i < n; ++i) {
    held.clear();
    if (STRING_ELT(texts, i) != NA_STRING) {
      const char* text = Rf_translateCharUTF8(STRING_ELT(texts, i));
      held.resize(2 * std::strlen(text) + 2);
      held.resize((size_t) (add_text(&held[0], text, std::strlen(text)) - &held[0]));
    }
    shown.listed.push_back(held + ',');
  }
}

void list_values(Shown& shown, SEXP table) {
  std::vector<Known> known(1024, Known{0, 0, {0}});
  char held[64];
  for (R_xlen_t i = 0; i < Rf_xlength(table); ++i) {
    char* end = held;
    if (TYPEOF(table) == REALSXP) end = add_number(held, REAL_RO(table)[i], known);
    else if (INTEGER_RO(table)[i] != NA_INTEGER) end = add_whole(held, INTEGER_RO(table)[i]);
    shown.listed.push_back(std::string(held, end) + ',');
  }
}

void list_places(Shown& shown, const Looked& of) {
  shown.kind = Shown::LISTED;
  shown.narrow = of.narrow;
  shown.whole = of.wide;
  size_t most = 0;
  for (const std::string& text : shown.listed) most = std::max(most, text.size());
  shown.most = most + copied;
  if (most <= 15 && shown.narrow) {
    shown.kind = Shown::SHORT;
    for (const std::string& text : shown.listed) {
      Short one{{0}, (uint8_t) text.size()};
      std::memcpy(one.text, text.data(), text.size());
      shown.shorts.push_back(one);
    }
  } else {
    for (const std::string& text : shown.listed) {
      shown.starts.push_back(shown.bytes.size());
      shown.bytes += text;
    }
    shown.starts.push_back(shown.bytes.size());
    shown.bytes.append(copied, ' ');
  }
  shown.listed.clear();
}

Shown shown_of(SEXP column) {
  Shown out;
  Looked of;
  if (TYPEOF(column) == STRSXP) {
    if (look_into_run(column, out.run)) {
      out.kind = Shown::RUN;
      return out;
    }
    if (Rf_isNull(listed_parts(column))) {
      out.kind = Shown::TEXT;
      out.text = STRING_PTR_RO(column);
      return out;
    }
    List parts = listed_parts(column);
    SEXP known = parts["known"];
    of = places_in(parts["index"]);
    if (of.wide && look_into_run(known, out.run)) {
      out.kind = Shown::RUN;
      out.whole = of.wide;
      return out;
    }
    if (of.wide && Rf_xlength(known) > of.n) {
      out.kind = Shown::TEXT;
      out.text = STRING_PTR_RO(known);
      out.whole = of.wide;
      return out;
    }
    list_texts(out, known);
    list_places(out, of);
  } else if (look_into(column, of) && of.table != R_NilValue) {
    if (!Rf_isFactor(column)) {
      list_values(out, of.table);
      list_places(out, of);
      return out;
    }
    // A table of levels: each place is the text of its level.
    Shown levels;
    list_texts(levels, Rf_getAttrib(column, R_LevelsSymbol));
    const int* level = INTEGER_RO(of.table);
    for (R_xlen_t k = 0; k < of.size(); ++k) out.listed.push_back(levels.listed[level[k] == NA_INTEGER ? 0 : level[k]]);
    list_places(out, of);
  } else if (Rf_isFactor(column)) {
    list_texts(out, Rf_getAttrib(column, R_LevelsSymbol));
    list_places(out, places_in(column));
  } else if (TYPEOF(column) == INTSXP) {
    out.whole = INTEGER_RO(column);
  } else {
    out.kind = Shown::NUMBER;
    out.number = REAL_RO(column);
  }
  return out;
}

char* add_cell(Growing& out, char* p, const Shown& column, R_xlen_t row, size_t bound, std::vector<Known>& known) {
  switch (column.kind) {
    case Shown::SHORT: case Shown::LISTED: return p;
    case Shown::WHOLE: if (column.whole[row] != NA_INTEGER) p = add_whole(p, column.whole[row]); break;
    case Shown::NUMBER: p = add_number(p, column.number[row], known); break;
    case Shown::TEXT: {
      const SEXP text = column.text_at(row);
      if (text == NA_STRING) break;
      const size_t size = (size_t) LENGTH(text);
      out.until(p);
      p = add_text(out.room(2 * size + 2 + bound), CHAR(text), size);
      break;
    }
    case Shown::RUN: {
      if (column.whole && column.whole[row] == NA_INTEGER) break;
      const char* text = (const char*) column.run.at(column.whole ? column.whole[row] - 1 : row);
      const size_t size = std::strlen(text);
      out.until(p);
      p = add_text(out.room(2 * size + 2 + bound), text, size);
      break;
    }
  }
  *p++ = ',';
  return p;
}

// A row's cells, where `bound` bytes are enough for all but texts; each has its comma, and the
// last one's becomes the line's end. `at` is the row's place in the tile.
void add_row(Growing& out, const std::vector<Near>& shown, R_xlen_t row, R_xlen_t at, size_t bound, std::vector<Known>& known) {
  if (shown.empty()) return out.add('\n');
  char* p = out.room(bound);
  for (const Near& column : shown) {
    if (column.places) {
      const Short& text = column.joint->texts[column.places[at]];
      std::memcpy(p, text.text, 16);
      p += text.size;
    } else if (column.pieces) {
      const Piece& text = column.pieces[at];
      std::memcpy(p, text.at, copied);
      if (text.size > copied) std::memcpy(p + copied, text.at + copied, text.size - copied);
      p += text.size;
    } else {
      p = add_cell(out, p, *column.all, row, bound, known);
    }
  }
  p[-1] = '\n';
  out.until(p);
}

// What one thread writes: rows of the columns become bytes.
class Writer {
  const int* rows;
  size_t bound;
  std::vector<uint16_t> places;
  std::vector<Piece> pieces;
  std::vector<Near> near;
  std::vector<Known> known = std::vector<Known>(1024, Known{0, 0, {0}});
  R_xlen_t row(R_xlen_t i) const { return rows ? rows[i] - 1 : i; }
  void bring(const Near& column, R_xlen_t from, R_xlen_t n) {
    const Shown& all = *column.all;
    if (column.places) {
      std::fill(column.places, column.places + n, 0);
      for (size_t k = 0; k < column.joint->places.size(); ++k) {
        const uint8_t* narrow = column.joint->places[k];
        const uint16_t size = (uint16_t) column.joint->sizes[k];
        if (rows) for (R_xlen_t i = 0; i < n; ++i) column.places[i] = (uint16_t) (column.places[i] * size + narrow[rows[from + i] - 1]);
        else for (R_xlen_t i = 0; i < n; ++i) column.places[i] = (uint16_t) (column.places[i] * size + narrow[from + i]);
      }
    }
    if (column.pieces) for (R_xlen_t i = 0; i < n; ++i) {
      const size_t place = all.place(row(from + i)), start = all.starts[place];
      column.pieces[i] = Piece{all.bytes.data() + start, all.starts[place + 1] - start};
      fetch(column.pieces[i].at);
    }
    if (all.kind == Shown::TEXT) for (R_xlen_t i = 0; i < n; ++i) {
      const char* text = (const char*) all.text_at(row(from + i));
      fetch(text);
      fetch(text + 64);
    }
  }
  static void fetch(const char* at) {
#ifdef __GNUC__
    __builtin_prefetch(at);
#endif
  }
public:
  Growing out;
  Writer(const std::vector<Shown>& shown, const std::vector<Joint>& joints, const int* rows, size_t bound) : rows(rows), bound(bound),
    places(shown.size() * tile), pieces(shown.size() * tile) {
    size_t joint = 0;
    for (size_t k = 0; k < shown.size();) {
      const bool is_short = shown[k].kind == Shown::SHORT;
      near.push_back(Near{&shown[k], is_short ? &joints[joint] : nullptr, is_short ? &places[k * tile] : nullptr,
        shown[k].kind == Shown::LISTED ? &pieces[k * tile] : nullptr});
      k += is_short ? joints[joint++].places.size() : 1;
    }
  }
  Writer(const Writer&) = delete;
  Writer(Writer&&) = default;
  void fill(R_xlen_t from, R_xlen_t to) {
    out.clear();
    for (; from < to; from += tile) {
      const R_xlen_t n = std::min(tile, to - from);
      for (const Near& column : near) bring(column, from, n);
      for (R_xlen_t i = 0; i < n; ++i) add_row(out, near, row(from + i), i, bound, known);
    }
  }
};

}

// Columns are integers, doubles, texts or factors; `rows` (from 1) are those written,
// all if NULL. They go behind what stands in the file where it is to `append`. Returns what
// went wrong, "" if nothing.

// [[Rcpp::export]]
std::string write_rows(std::string path, CharacterVector names, List columns, Nullable<IntegerVector> rows, int threads, bool append = false) {
  std::vector<Shown> shown;
  R_xlen_t n = 0;
  size_t bound = 64;
  for (R_xlen_t k = 0; k < columns.size(); ++k) {
    n = Rf_xlength(columns[k]);
    shown.push_back(shown_of(columns[k]));
    bound += shown.back().most + 1;
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
    const size_t size = (size_t) LENGTH(STRING_ELT(names, k));
    head.until(add_text(head.room(2 * size + 2), CHAR(STRING_ELT(names, k)), size));
  }
  head.add('\n');
  auto write = [&](const Growing& bytes) {
    if (problem.empty() && std::fwrite(bytes.data(), 1, bytes.size(), file) != bytes.size()) problem = std::strerror(errno);
  };
  if (!append) write(head);
  const R_xlen_t block = 1024;
  threads = std::max(1, threads);
  const std::vector<Joint> joints = joints_of(shown, (size_t) std::min((R_xlen_t) 512, n));
  std::vector<Writer> writers;
  for (int t = 0; t < threads; ++t) writers.emplace_back(shown, joints, at, bound);
  R_xlen_t passed = 0;
  for (R_xlen_t from = 0; from < n && problem.empty(); from += threads * block) {
    std::vector<std::thread> beside;
    for (int t = 1; t < threads; ++t) {
      const R_xlen_t start = std::min(n, from + t * block), end = std::min(n, start + block);
      beside.emplace_back([&writers, t, start, end]() { writers[t].fill(start, end); });
    }
    writers[0].fill(from, std::min(n, from + block));
    for (std::thread& thread : beside) thread.join();
    for (const Writer& writer : writers) write(writer.out);
    // What lies in files is passed over once: it need not stay in memory.
    passed += threads * block;
    if (passed > (1 << 18)) { rest_mapped(); passed = 0; }
  }
  if (std::fflush(file) != 0 && problem.empty()) problem = std::strerror(errno);
  if (std::fclose(file) != 0 && problem.empty()) problem = std::strerror(errno);
  return problem;
}
