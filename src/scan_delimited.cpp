#include <Rcpp.h>
#include <cstdio>
#include <string>
#include <vector>
using namespace Rcpp;

// Walks a delimited text file once, byte by byte, and says whether it is what
// it claims to be: every record as long as the first, every quote closed, no
// byte that is not UTF-8. Keeps what a table of cells no longer shows: the
// line each record starts on, and which quoted cells hold doubled quotes.

namespace {

class ByteSource {
  std::FILE* file;
  std::vector<unsigned char> buffer;
  size_t at = 0, filled = 0;
public:
  double total = 0;
  explicit ByteSource(const char* path) : file(std::fopen(path, "rb")), buffer(1 << 20) {}
  ~ByteSource() { if (file) std::fclose(file); }
  bool opened() const { return file != nullptr; }
  bool refill() {
    filled = file ? std::fread(buffer.data(), 1, buffer.size(), file) : 0;
    at = 0;
    total += (double) filled;
    return filled > 0;
  }
  int peek() { return at < filled || refill() ? buffer[at] : -1; }
  int take() { int c = peek(); if (c >= 0) ++at; return c; }
  // Passes over bytes that mean nothing here; says how many.
  int pass(const bool* dull) {
    size_t from = at;
    while (at < filled && dull[buffer[at]]) ++at;
    return (int) (at - from);
  }
};

// Counts down the continuation bytes that a UTF-8 lead byte promises.
class Utf8 {
  int left = 0;
  unsigned char low = 0x80, high = 0xBF;
public:
  bool ok(unsigned char c) {
    if (left) {
      if (c < low || c > high) return false;
      low = 0x80; high = 0xBF; --left;
      return true;
    }
    if (c < 0x80) return true;
    if (c >= 0xC2 && c <= 0xDF) left = 1;
    else if (c >= 0xE0 && c <= 0xEF) { left = 2; if (c == 0xE0) low = 0xA0; if (c == 0xED) high = 0x9F; }
    else if (c >= 0xF0 && c <= 0xF4) { left = 3; if (c == 0xF0) low = 0x90; if (c == 0xF4) high = 0x8F; }
    else return false;
    return true;
  }
  bool whole() const { return left == 0; }
};

}

// [[Rcpp::export]]
List scan_delimited(std::string path, std::string delimiter, int skip) {
  ByteSource source(path.c_str());
  const int mark = (unsigned char) delimiter[0];
  std::vector<int> lines, doubled_row, doubled_column;
  std::string problem;
  int problem_line = 0, found = 0, expected = 0, line = 1;
  Utf8 utf8;
  // Printable ASCII that is no delimiter, in and outside of quotes.
  bool dull[256];
  for (int c = 0; c < 256; ++c) dull[c] = c >= 32 && c < 127 && c != '"' && c != mark;
  auto fail = [&](const char* what, int where) { if (problem.empty()) { problem = what; problem_line = where; } };
  auto sound = [&](int c) {
    if (c == 0) fail("nul", line);
    else if (!utf8.ok((unsigned char) c)) fail("encoding", line);
    return problem.empty();
  };

  // Both return how many bytes the cell took; the next byte is then a
  // delimiter, a line feed or the end.
  auto quoted = [&](int field) {
    int opened_at = line, length = 1;
    bool doubled = false;
    source.take();
    for (;; ++length) {
      if (utf8.whole()) length += source.pass(dull);
      int c = source.take();
      if (c < 0) { fail("unclosed", opened_at); return length; }
      if (!sound(c)) return length;
      if (c == '\n') ++line;
      if (c != '"') continue;
      if (source.peek() != '"') break;
      source.take();
      doubled = true;
    }
    if (doubled) { doubled_row.push_back((int) lines.size() + 1); doubled_column.push_back(field + 1); }
    if (source.peek() == '\r') { source.take(); if (source.peek() != '\n' && source.peek() >= 0) fail("after_quote", line); }
    int next = source.peek();
    if (next >= 0 && next != mark && next != '\n') fail("after_quote", line);
    return length;
  };
  auto plain = [&]() {
    int length = 0;
    length += source.pass(dull);
    for (int c = source.peek(), last = 0; c >= 0 && c != mark && c != '\n'; c = source.peek()) {
      if (!sound(c)) return length;
      last = source.take();
      if (last != '\r') ++length;
      else if (source.peek() != '\n' && source.peek() >= 0) { fail("carriage", line); return length; }
    }
    if (!utf8.whole()) fail("encoding", line);
    return length;
  };

  if (!source.opened()) fail("unopened", 0);
  int start = source.peek();
  if (start == 0xFF || start == 0xFE) fail("utf16", 1);
  if (start == 0xEF) { source.take(); if (source.take() != 0xBB || source.take() != 0xBF) fail("encoding", 1); }
  while (line <= skip && source.peek() >= 0) if (source.take() == '\n') ++line;

  while (problem.empty() && source.peek() >= 0) {
    int record_line = line, fields = 0, length = 0, next = mark;
    while (next == mark && problem.empty()) {
      length = source.peek() == '"' ? quoted(fields) : plain();
      ++fields;
      next = source.peek();
      if (next == mark || next == '\n') source.take();
      if (next == '\n') ++line;
    }
    if (!problem.empty() || (fields == 1 && length == 0)) continue;
    lines.push_back(record_line);
    if (expected == 0) expected = fields;
    if (fields != expected) { found = fields; fail(fields < expected ? "short" : "long", record_line); }
  }
  return List::create(
    _["problem"] = problem, _["line"] = problem_line, _["found"] = found, _["expected"] = expected,
    _["lines"] = IntegerVector(lines.begin(), lines.end()), _["bytes"] = source.total,
    _["doubled_row"] = IntegerVector(doubled_row.begin(), doubled_row.end()),
    _["doubled_column"] = IntegerVector(doubled_column.begin(), doubled_column.end()));
}
