#include <Rcpp.h>
#include <cstdio>
#include <string>
#include <vector>
using namespace Rcpp;

// The cells of a delimited file whose shape is sound (see scan_delimited), a
// column a vector, doubled quotes undone. For the few files that the common
// reader does not read rightly; it is slower on large ones.

// [[Rcpp::export]]
List cells_delimited(std::string path, std::string delimiter, int skip, int width) {
  const int mark = (unsigned char) delimiter[0];
  std::FILE* file = std::fopen(path.c_str(), "rb");
  if (!file) stop("cannot be opened");
  std::vector<std::vector<std::string>> columns(width);
  auto peek = [&]() { int c = std::getc(file); if (c != EOF) std::ungetc(c, file); return c; };
  if (peek() == 0xEF) for (int i = 0; i < 3; ++i) std::getc(file);
  for (int line = 1; line <= skip; ) { int c = std::getc(file); if (c == EOF) break; if (c == '\n') ++line; }

  std::vector<std::string> record;
  while (peek() != EOF) {
    record.clear();
    bool blank = true;
    for (int c = mark; c == mark; ) {
      std::string cell;
      c = std::getc(file);
      if (c == '"') {
        blank = false;
        while ((c = std::getc(file)) != EOF) {
          if (c == '"') { if (peek() != '"') break; std::getc(file); }
          cell.push_back((char) c);
        }
        c = std::getc(file);
        if (c == '\r') c = std::getc(file);
      } else {
        for (; c != EOF && c != mark && c != '\n'; c = std::getc(file)) if (c != '\r') cell.push_back((char) c);
      }
      if (!cell.empty() || c == mark) blank = false;
      record.push_back(cell);
    }
    if (blank) continue;
    for (int k = 0; k < width && k < (int) record.size(); ++k) columns[k].push_back(record[k]);
  }
  std::fclose(file);

  List out(width);
  for (int k = 0; k < width; ++k) {
    CharacterVector cells(columns[k].size());
    for (size_t i = 0; i < columns[k].size(); ++i) SET_STRING_ELT(cells, i, Rf_mkCharLenCE(columns[k][i].data(), (int) columns[k][i].size(), CE_UTF8));
    out[k] = cells;
  }
  return out;
}
