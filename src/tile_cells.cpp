#include <Rcpp.h>
#include <string>
#include <unordered_map>
#include <vector>
using namespace Rcpp;

// Cuts cells of several answers apart. Cells and options are lists of segments
// joined by the byte 0x1F; an option may be several segments long. Of all ways
// to lay options over a cell the one that leaves the fewest segments over is
// taken, longer options first; `ways` says whether there is more than one.

// [[Rcpp::export]]
List tile_cells(CharacterVector cells, CharacterVector options, IntegerVector meaning) {
  std::unordered_map<std::string, int> known;
  std::vector<std::vector<int>> forms(options.size());
  auto segments = [](const char* text, std::vector<std::string>& into) {
    into.clear();
    const char* from = text;
    for (const char* at = text; ; ++at) {
      if (*at != '\x1f' && *at != '\0') continue;
      into.emplace_back(from, at - from);
      from = at + 1;
      if (*at == '\0') break;
    }
  };
  std::vector<std::string> parts;
  std::vector<std::vector<int>> begins;
  for (R_xlen_t j = 0; j < options.size(); ++j) {
    segments(CHAR(STRING_ELT(options, j)), parts);
    for (const std::string& part : parts) forms[j].push_back(known.emplace(part, (int) known.size()).first->second);
    const size_t first = (size_t) forms[j][0];
    if (begins.size() < known.size()) begins.resize(known.size());
    begins[first].push_back((int) j);
  }
  begins.resize(known.size());

  const R_xlen_t n = cells.size();
  CharacterVector set(n), rest(n);
  IntegerVector ways(n);
  std::vector<int> ids, left, count, pick;
  for (R_xlen_t i = 0; i < n; ++i) {
    segments(CHAR(STRING_ELT(cells, i)), parts);
    const int size = (int) parts.size();
    ids.assign(size, -1);
    for (int k = 0; k < size; ++k) {
      const auto found = known.find(parts[k]);
      if (found != known.end()) ids[k] = found->second;
    }
    // From the end: how few segments stay over, in how many ways, and what is laid here.
    left.assign(size + 1, 0); count.assign(size + 1, 1); pick.assign(size + 1, -1);
    for (int k = size - 1; k >= 0; --k) {
      left[k] = left[k + 1] + 1; count[k] = count[k + 1]; pick[k] = -1;
      size_t longest = 0;
      if (ids[k] < 0) continue;
      for (int j : begins[ids[k]]) {
        const std::vector<int>& form = forms[j];
        const int to = k + (int) form.size();
        if (to > size) continue;
        bool fits = true;
        for (size_t s = 1; s < form.size() && fits; ++s) fits = ids[k + s] == form[s];
        if (!fits || left[to] > left[k]) continue;
        if (left[to] < left[k]) { left[k] = left[to]; count[k] = 0; longest = 0; }
        count[k] = count[k] + count[to] > 1000 ? 1000 : count[k] + count[to];
        if (form.size() > longest) { longest = form.size(); pick[k] = j; }
      }
    }
    ways[i] = count[0];
    std::vector<bool> ticked;
    std::string over;
    for (int k = 0; k < size; ) {
      if (pick[k] < 0) {
        if (!over.empty()) over += ',';
        over += std::to_string(k + 1);
        ++k;
        continue;
      }
      const size_t option = (size_t) meaning[pick[k]];
      if (ticked.size() <= option) ticked.resize(option + 1, false);
      ticked[option] = true;
      k += (int) forms[pick[k]].size();
    }
    std::string text;
    for (size_t option = 0; option < ticked.size(); ++option) {
      if (!ticked[option]) continue;
      if (!text.empty()) text += ',';
      text += std::to_string(option);
    }
    set[i] = text;
    rest[i] = over;
  }
  return List::create(_["set"] = set, _["rest"] = rest, _["ways"] = ways);
}
