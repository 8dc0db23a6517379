#include <Rcpp/Lighter>
#include <cstdlib>
#include <cstring>
#include <string>
#include <unordered_map>
#include <vector>
using namespace Rcpp;

// Cuts cells of several answers apart. Cells and options are lists of segments
// joined by the byte 0x1F; spaces around it, and empty ones at the end, mean
// nothing. An option may be several segments long. Of all ways
// to lay options over a cell the one that leaves the fewest segments over is
// taken, longer options first; `ways` says whether there is more than one. Cells
// that are `plain` ASCII come as they stand, cut at the separator and folded here.

// [[Rcpp::export]]
List tile_cells(CharacterVector cells, LogicalVector plain, std::string separator, CharacterVector options, IntegerVector meaning) {
  std::unordered_map<std::string, int> known;
  std::vector<std::vector<int>> forms(options.size());
  auto segments = [](const char* text, std::vector<std::string>& into) {
    into.clear();
    const char* from = text;
    for (const char* at = text; ; ++at) {
      if (*at != '\x1f' && *at != '\0') continue;
      const char* end = at;
      while (from < end && *from == ' ') ++from;
      while (end > from && end[-1] == ' ') --end;
      into.emplace_back(from, end - from);
      from = at + 1;
      if (*at == '\0') break;
    }
    while (into.size() > 1 && into.back().empty()) into.pop_back();
  };
  std::vector<std::string> parts;
  auto cut = [&separator](const char* text, std::vector<std::string>& into) {
    into.clear();
    std::string part;
    bool space = false;
    for (const char* at = text; ; ++at) {
      const bool end = *at == '\0';
      if (end || std::strncmp(at, separator.c_str(), separator.size()) == 0) {
        into.push_back(part);
        part.clear();
        space = false;
        if (end) break;
        at += separator.size() - 1;
        continue;
      }
      const char c = *at;
      if (c == ' ' || (c >= 9 && c <= 13)) { space = !part.empty(); continue; }
      if (space) part += ' ';
      space = false;
      part += c >= 'A' && c <= 'Z' ? (char) (c + 32) : c == '`' ? '\'' : c;
    }
    while (into.size() > 1 && into.back().empty()) into.pop_back();
  };
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
    if (plain[i]) cut(CHAR(STRING_ELT(cells, i)), parts); else segments(CHAR(STRING_ELT(cells, i)), parts);
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

// The segments of each text that `rest` names (`2,3`, from 1), joined again by
// the separator as they stand, without separators and spaces at the ends.

// [[Rcpp::export]]
CharacterVector pick_segments(CharacterVector cells, CharacterVector rest, std::string separator) {
  const R_xlen_t n = cells.size();
  CharacterVector out(n);
  size_t trim_from = 0, trim_to = separator.size();
  while (trim_from < trim_to && separator[trim_from] == ' ') ++trim_from;
  while (trim_to > trim_from && separator[trim_to - 1] == ' ') --trim_to;
  const std::string mark = separator.substr(trim_from, trim_to - trim_from);
  std::vector<bool> wanted;
  for (R_xlen_t i = 0; i < n; ++i) {
    const std::string text = CHAR(STRING_ELT(cells, i));
    wanted.clear();
    for (const char* at = CHAR(STRING_ELT(rest, i)); *at; ) {
      const size_t k = std::strtoul(at, const_cast<char**>(&at), 10);
      if (wanted.size() <= k) wanted.resize(k + 1, false);
      wanted[k] = true;
      if (*at == ',') ++at;
    }
    std::string joined;
    bool any = false;
    size_t from = 0;
    for (size_t k = 1; ; ++k) {
      const size_t to = text.find(separator, from);
      if (k < wanted.size() && wanted[k]) {
        if (any) joined += separator;
        joined += text.substr(from, to == std::string::npos ? to : to - from);
        any = true;
      }
      if (to == std::string::npos) break;
      from = to + separator.size();
    }
    size_t a = 0, b = joined.size();
    for (bool more = true; more; ) {
      more = false;
      while (a < b && (joined[a] == ' ' || (joined[a] >= 9 && joined[a] <= 13))) { ++a; more = true; }
      while (b > a && (joined[b - 1] == ' ' || (joined[b - 1] >= 9 && joined[b - 1] <= 13))) { --b; more = true; }
      if (!mark.empty() && b - a >= mark.size()) {
        if (joined.compare(a, mark.size(), mark) == 0) { a += mark.size(); more = true; }
        else if (joined.compare(b - mark.size(), mark.size(), mark) == 0) { b -= mark.size(); more = true; }
      }
    }
    SET_STRING_ELT(out, i, Rf_mkCharLenCE(joined.data() + a, (int) (b - a), CE_UTF8));
  }
  return out;
}

// 1 where a set holds an option, 0 where not, NA where that is not known (`?4`).
// What stands behind the byte 0x1E is no option.

// [[Rcpp::export]]
IntegerVector hold_option(CharacterVector sets, int option) {
  const R_xlen_t n = sets.size();
  IntegerVector out(n);
  for (R_xlen_t i = 0; i < n; ++i) {
    for (const char* at = CHAR(STRING_ELT(sets, i)); *at && *at != '\x1e'; ) {
      const bool doubt = *at == '?';
      if (doubt) ++at;
      char* end;
      const long k = std::strtol(at, &end, 10);
      if (end == at) break;
      if (k == option) out[i] = doubt ? NA_INTEGER : 1;
      // Behind the option of an unknown one stands the reason.
      while (*end && *end != ',' && *end != '\x1e') ++end;
      at = *end == ',' ? end + 1 : end;
    }
  }
  return out;
}
