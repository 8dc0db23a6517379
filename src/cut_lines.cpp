#include <Rcpp/Lighter>
#include <algorithm>
#include <cstdio>
#include <cstring>
#include <vector>
using namespace Rcpp;

namespace {

// Some lines are many gigabytes from the first.
void go_to(std::FILE* file, double place) {
#ifdef _WIN32
  _fseeki64(file, (long long) place, SEEK_SET);
#else
  fseeko(file, (off_t) place, SEEK_SET);
#endif
}

}

// Where in a file every so-manieth line begins: the first, and each `every` lines on.

// [[Rcpp::export]]
NumericVector line_starts(std::string path, int every) {
  std::vector<double> out(1, 0.0);
  std::FILE* in = std::fopen(path.c_str(), "rb");
  if (!in) return NumericVector(0);
  std::vector<char> buffer(1 << 20);
  double before = 0;
  int lines = 0;
  while (const size_t filled = std::fread(buffer.data(), 1, buffer.size(), in)) {
    const char *at = buffer.data(), *end = at + filled;
    while ((at = static_cast<const char*>(std::memchr(at, '\n', (size_t) (end - at))))) {
      ++at;
      if (++lines == every) { out.push_back(before + (double) (at - buffer.data())); lines = 0; }
      if (at == end) break;
    }
    before += (double) filled;
  }
  std::fclose(in);
  return NumericVector(out.begin(), out.end());
}

// Copies ranges of lines (from 1, both ends included, in rising order) of a
// file into another, byte by byte as they stand. `starts` are those of every so-manieth line,
// which are gone to; with none the file is passed over from its first line on.

// [[Rcpp::export]]
bool cut_lines(std::string path, std::string into, IntegerVector from, IntegerVector to, NumericVector starts, int every) {
  std::FILE* in = std::fopen(path.c_str(), "rb");
  if (!in) return false;
  std::FILE* out = std::fopen(into.c_str(), "wb");
  if (!out) { std::fclose(in); return false; }
  std::vector<char> buffer(1 << 16);
  R_xlen_t range = 0;
  int line = 1;
  while (range < from.size()) {
    const R_xlen_t near = std::min<R_xlen_t>((from[range] - 1) / every, starts.size() - 1);
    if (near >= 0 && near * every + 1 > line) {
      go_to(in, starts[near]);
      line = (int) (near * every) + 1;
    }
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
