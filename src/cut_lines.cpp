#include <Rcpp/Lighter>
#include <cstdio>
#include <cstring>
#include <vector>
using namespace Rcpp;

// Copies ranges of lines (from 1, both ends included, in rising order) of a
// file into another, byte by byte as they stand.

// [[Rcpp::export]]
bool cut_lines(std::string path, std::string into, IntegerVector from, IntegerVector to) {
  std::FILE* in = std::fopen(path.c_str(), "rb");
  if (!in) return false;
  std::FILE* out = std::fopen(into.c_str(), "wb");
  if (!out) { std::fclose(in); return false; }
  std::vector<char> buffer(1 << 20);
  R_xlen_t range = 0;
  int line = 1;
  while (range < from.size()) {
    const size_t filled = std::fread(buffer.data(), 1, buffer.size(), in);
    if (filled == 0) break;
    const char* at = buffer.data();
    const char* end = at + filled;
    while (at < end && range < from.size()) {
      const char* stop = static_cast<const char*>(std::memchr(at, '\n', end - at));
      const char* next = stop ? stop + 1 : end;
      while (range < from.size() && line > to[range]) ++range;
      if (range < from.size() && line >= from[range]) std::fwrite(at, 1, next - at, out);
      if (stop) ++line;
      at = next;
    }
  }
  std::fclose(in);
  return std::fclose(out) == 0;
}
