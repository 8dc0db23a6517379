#include <Rcpp/Lighter>
#include <string>
#include <utility>
#include <vector>

// Where every key and value of a YAML text stands, how it is written, and what YAML would
// swallow without a word. Lines and columns count characters, from 1.

namespace {

typedef std::u32string Text;

std::string utf8(const Text& text) {
  std::string out;
  for (char32_t c : text) {
    if (c < 0x80) { out += (char) c; continue; }
    if (c < 0x800) out += (char) (0xC0 | c >> 6);
    else {
      if (c < 0x10000) out += (char) (0xE0 | c >> 12);
      else {
        out += (char) (0xF0 | c >> 18);
        out += (char) (0x80 | (c >> 12 & 0x3F));
      }
      out += (char) (0x80 | (c >> 6 & 0x3F));
    }
    out += (char) (0x80 | (c & 0x3F));
  }
  return out;
}

Text characters(const char* at) {
  Text out;
  for (const unsigned char* p = (const unsigned char*) at; *p;) {
    int more = *p < 0xC0 ? 0 : *p < 0xE0 ? 1 : *p < 0xF0 ? 2 : 3;
    char32_t c = more == 0 ? *p : *p & (0x3F >> more);
    for (++p; more > 0 && (*p & 0xC0) == 0x80; --more, ++p) c = c << 6 | (*p & 0x3F);
    out += c;
  }
  return out;
}

bool is_pad(char32_t c) { return c == ' ' || c == '\t'; }
bool is_space(char32_t c) { return c == ' ' || (c >= 9 && c <= 13); }
bool is_white(char32_t c) {
  return is_space(c) || c == 0x85 || c == 0xA0 || c == 0x1680 || (c >= 0x2000 && c <= 0x200A) || c == 0x2028 || c == 0x2029 ||
    c == 0x202F || c == 0x205F || c == 0x3000;
}
bool is_one_of(char32_t c, const char* set) { return c != 0 && c < 128 && std::char_traits<char>::find(set, std::char_traits<char>::length(set), (char) c); }

Text trimmed_right(Text text) {
  while (!text.empty() && is_white(text.back())) text.pop_back();
  return text;
}
Text trimmed(Text text) {
  size_t from = 0;
  while (from < text.size() && is_white(text[from])) ++from;
  return trimmed_right(text.substr(from));
}

struct Lost { std::string why; };
struct Mark { std::string id, style; int key_line, key_column, line, column, end_line, end_column; bool flow; };
struct Refusal { int line; std::vector<std::string> path; std::string why; };
struct Place { int line, column; };
typedef std::vector<std::string> Path;
typedef std::vector<std::pair<std::string, int>> Seen;

Path inside(Path path, const std::string& name) {
  path.push_back(name);
  return path;
}

class Scanner {
  std::vector<Text> lines;
  Rcpp::Function unquote;
  const Text none;
  int line = 1, column = 1;

  bool over() const { return line > (int) lines.size(); }
  const Text& here() const { return over() ? none : lines[line - 1]; }
  size_t at() const { return (size_t) column - 1; }
  // A character of this line, from the next one on; 0 behind its end.
  char32_t peek(size_t ahead = 0) const { return at() + ahead < here().size() ? here()[at() + ahead] : 0; }
  bool ends(size_t ahead = 0) const { return at() + ahead >= here().size(); }
  Text rest() const { return ends() ? Text() : here().substr(at()); }
  Place place() const { return {line, column}; }
  void go(Place to) { line = to.line; column = to.column; }
  void next_line() { ++line; column = 1; }
  int indent() const { return column - 1; }
  size_t pads(size_t from = 0) const {
    while (is_pad(peek(from))) ++from;
    return from;
  }
  void skip_pads() { column += (int) pads(); }
  bool blank_rest() const { return ends(pads()); }

  [[noreturn]] void lose(const std::string& why =
    "this line is no `key: value` and no part of what stands above: is a colon missing, a quote, or the indent off?") const {
    throw Lost{why};
  }
  void refuse(const Path& path, const std::string& why, int at = 0) { refused.push_back({at ? at : line, path, why}); }

  // To the next thing that is not blank and no comment.
  bool next() {
    for (; !over(); next_line()) {
      const size_t from = pads();
      if (ends(from) || peek(from) == '#') continue;
      column += (int) from;
      return true;
    }
    return false;
  }
  bool item() const { return peek() == '-' && (ends(1) || is_pad(peek(1))); }
  bool colon(size_t from) const {
    from = pads(from);
    return peek(from) == ':' && (ends(from + 1) || is_pad(peek(from + 1)));
  }
  // How long the quoted text is that begins here, in this line; 0 where none ends.
  size_t quoted(bool key) const {
    const char32_t quote = peek();
    if (quote == '"') {
      size_t p = 1;
      while (!ends(p) && peek(p) != '"') p += peek(p) == '\\' ? 2 : 1;
      return ends(p) || (key && !colon(p + 1)) ? 0 : p + 1;
    }
    if (quote != '\'') return 0;
    std::vector<size_t> stops;
    size_t p = 1;
    for (; !ends(p); p += peek(p) == '\'' ? 2 : 1) {
      if (peek(p) != '\'') continue;
      stops.push_back(p);
      if (peek(p + 1) != '\'') break;
    }
    for (; !stops.empty(); stops.pop_back()) if (!key || colon(stops.back() + 1)) return stops.back() + 1;
    return 0;
  }
  // How long the key is that begins here; 0 where none does.
  size_t key() const {
    if (ends() || is_space(peek())) return 0;
    if (is_one_of(peek(), "\"'")) return quoted(true);
    if (is_one_of(peek(), "[]{},#&*!|>%@`")) return 0;
    for (size_t p = 1;; ++p) {
      if (colon(p)) return p;
      if (ends(p) || !goes_on(p)) return 0;
    }
  }
  // Whether a plain text goes on over a colon or a hash.
  bool goes_on(size_t p) const {
    if (peek(p) == ':') return !ends(p + 1) && !is_space(peek(p + 1));
    return peek(p) != '#' || (p > 0 && !is_space(peek(p - 1)));
  }
  bool goes_on_inside(size_t p) const {
    if (is_one_of(peek(p), ",[]{}")) return false;
    if (peek(p) == ':') return !ends(p + 1) && !is_space(peek(p + 1)) && !is_one_of(peek(p + 1), ",[]{}");
    return peek(p) != '#' || (p > 0 && !is_space(peek(p - 1)) && !is_one_of(peek(p - 1), ",[]{}"));
  }
  void take_plain(bool flow) {
    size_t p = 0;
    while (!ends(p) && (flow ? goes_on_inside(p) : goes_on(p))) ++p;
    while (p > 0 && is_white(peek(p - 1))) --p;
    column += (int) p;
  }

  std::string style(bool block = false) const {
    if (block && item()) return "list";
    if (block && key() > 0) return "map";
    switch (peek()) {
      case '{': return "flow map";
      case '[': return "flow list";
      case '"': return "double";
      case '\'': return "single";
      case '|': return "literal";
      case '>': return "folded";
      default: return "plain";
    }
  }
  // Keeps where a value begins, where it ends and how it is written.
  template <class Scan> void mark(const Path& path, Place key, bool flow, bool block, Scan scan) {
    std::string id;
    for (const std::string& part : path) id += (id.empty() && &part == &path[0] ? "" : "\x1f") + part;
    const size_t own = marks.size();
    marks.push_back({id, style(block), key.line, key.column, line, column, 0, 0, flow});
    scan();
    marks[own].end_line = line;
    marks[own].end_column = column;
  }

  // Before the stack ends.
  void check_depth(const Path& path) const {
    if (path.size() > 24) lose("nested deeper than any codebook is: a bracket or an indent too many?");
  }
  void refuse_marks(const Path& path) {
    size_t p = 0;
    while (!ends(p) && !is_space(peek(p))) ++p;
    const std::string word = utf8(rest().substr(0, p));
    refuse(path, peek() == '!' ? "YAML takes `" + word + "` for a tag and drops it: put the text or condition in quotes" :
      "anchors and references (`" + word + "`) are not part of the language: write it out, or put it in quotes");
  }
  void refuse_lost_comment(const Path& path) {
    const size_t p = pads();
    if (p == 0 || peek(p) != '#' || ends(p + 1) || is_space(peek(p + 1)) || peek(p + 1) == '#') return;
    refuse(path, "YAML takes `" + utf8(trimmed(rest())) +
      "` for a comment: put the text in quotes, or a space after # if it is one");
  }
  std::string take_key(size_t size) {
    const std::string token = utf8(rest().substr(0, size));
    const bool quotes = is_one_of(peek(), "\"'");
    column += (int) size;
    return quotes ? Rcpp::as<std::string>(unquote(Rcpp::String(token, CE_UTF8))) : token;
  }
  void note_key(const Path& path, Seen& seen, const std::string& name, int at) {
    for (const auto& one : seen) {
      if (one.first != name) continue;
      refuse(path, "the key `" + name + "` occurs twice, in " + (one.second == at ? "line " + std::to_string(at) :
        "lines " + std::to_string(one.second) + " and " + std::to_string(at)) + ": YAML would keep one of them; keep one", at);
      break;
    }
    if (name == "<<") refuse(path, "merge keys (`<<`) are not part of the language: write the keys out", at);
    seen.emplace_back(name, at);
  }

  void directives() {
    if (peek() == '%') lose("YAML directives (`%`) are not part of a codebook: take the line out");
    const size_t p = pads(3);
    if (rest().compare(0, 3, U"---") == 0 && (ends(p) || peek(p) == '#')) next_line();
    for (size_t k = (size_t) line - 1; k < lines.size(); ++k) {
      const Text& text = lines[k];
      const bool rule = text.compare(0, 3, U"---") == 0 || text.compare(0, 3, U"...") == 0;
      if (!rule || (text.size() > 3 && !is_pad(text[3]))) continue;
      line = (int) k + 1;
      lose("a second YAML document begins here: a codebook is one document");
    }
  }
  void block(int parent, const Path& path) {
    check_depth(path);
    if (item()) block_list(path);
    else if (key() > 0 || is_one_of(peek(), "&*!")) block_map(path);
    else value(parent, path, false, place());
  }
  void block_map(const Path& path) {
    const int own = indent();
    Seen seen;
    do {
      if (is_one_of(peek(), "&*!")) refuse_marks(path);
      const size_t size = key();
      if (size == 0) lose();
      const Place from = place();
      const std::string name = take_key(size);
      const Path inner = inside(path, name);
      note_key(inner, seen, name, from.line);
      skip_pads();
      ++column;
      entry(own, inner, from, false);
      if (!next() || indent() < own) return;
    } while (indent() == own);
    lose();
  }
  // What follows `key:` or `-` in block style.
  void entry(int own, const Path& path, Place from, bool in_list) {
    skip_pads();
    if (!ends() && peek() != '#') {
      mark(path, from, false, false, [&]() { value(own, path, false, from); });
      return;
    }
    const int empty = line;
    const bool found = next();
    const bool below = found && (indent() > own || (!in_list && indent() == own && item()));
    if (below) mark(path, from, false, true, [&]() { block(own, path); });
    else refuse(path, "`" + path.back() + "` has no value: give it one, or take it out", empty);
  }
  void block_list(const Path& path) {
    const int own = indent();
    for (int k = 1;; ++k) {
      const Path inner = inside(path, std::to_string(k));
      const Place from = place();
      ++column;
      skip_pads();
      if (key() > 0 || item()) mark(inner, from, false, true, [&]() { block(own, inner); });
      else entry(own, inner, from, true);
      if (!next() || indent() < own) return;
      if (indent() > own) lose();
      if (!item()) return;
    }
  }
  // `opened` is where the bracket stands, inside one.
  void value(int own, const Path& path, bool flow, Place opened) {
    const char32_t first = peek();
    if (is_one_of(first, "!&*")) refuse_marks(path);
    if (first == '{') return flow_map(path);
    if (first == '[') return flow_list(path);
    if (is_one_of(first, "\"'")) return quoted_value(first);
    if (is_one_of(first, "|>") && !flow) return block_text(own);
    if (is_one_of(first, "|>%@`")) lose(std::string("a plain text cannot begin with `") + (char) first + "`: put it in quotes");
    if (flow) plain_inside(path, opened);
    else plain_block(own, path);
  }
  void quoted_value(char32_t quote) {
    const int opened = line;
    for (++column;; next_line()) {
      if (over()) {
        line = opened;
        lose("a quote is opened here and never closed");
      }
      while (!ends()) {
        if (quote == '"' && peek() == '\\') column += ends(1) ? 1 : 2;
        else if (peek() != quote) ++column;
        else if (quote == '\'' && peek(1) == '\'') column += 2;
        else { ++column; return; }
      }
    }
  }
  void block_text(int own) {
    for (;; ++line) {
      column = (int) here().size() + 1;
      if (line >= (int) lines.size()) return;
      const Text& text = lines[line];
      size_t spaces = 0, p = 0;
      while (spaces < text.size() && text[spaces] == ' ') ++spaces;
      while (p < text.size() && is_pad(text[p])) ++p;
      if (p < text.size() && (int) spaces <= own) return;
    }
  }
  void plain_block(int own, const Path& path) {
    for (;;) {
      take_plain(false);
      refuse_lost_comment(path);
      const size_t p = pads();
      if (peek(p) == ':') lose("a colon and a space inside a plain text: put it in quotes");
      if (p > 0 && peek(p) == '#') return;
      const Place end = place();
      next_line();
      while (!over() && blank_rest()) next_line();
      skip_pads();
      if (!over() && indent() > own && peek() != '#') continue;
      return go(end);
    }
  }
  void plain_inside(const Path& path, Place opened) {
    for (;;) {
      take_plain(true);
      refuse_lost_comment(path);
      if (!blank_rest()) return;
      const Place end = place();
      flow_next(opened);
      if (is_one_of(peek(), ",[]{}:")) return go(end);
    }
  }
  void flow_next(Place opened) { if (!next()) unclosed(opened, "never closed"); }
  [[noreturn]] void unclosed(Place opened, const std::string& how) {
    line = opened.line;
    const char32_t bracket = here()[(size_t) opened.column - 1];
    lose("`" + utf8(Text(1, bracket)) + "` is opened here, at column " + std::to_string(opened.column) + ", and " + how +
      ": put `" + (bracket == '{' ? "}" : "]") + "` behind its last entry");
  }
  // A new `key:` at a line's start means that the bracket before it was never closed.
  void check_closed(Place opened) {
    if (line <= opened.line) return;
    const int own = column;
    column = 1;
    skip_pads();
    const bool found = key() > 0;
    column = own;
    if (found) unclosed(opened, "not closed before line " + std::to_string(line) + ", where another key begins");
  }
  // What follows an entry inside brackets: a comma, or the end of it.
  void flow_follow(Place opened, char32_t end) {
    flow_next(opened);
    if (peek() == ',') { ++column; return; }
    if (peek() == end) return;
    check_closed(opened);
    Text text = rest();
    if (text.size() > 20) text = trimmed_right(text.substr(0, 19)) + U"\u2026";
    lose("a comma or `" + utf8(Text(1, end)) + "` is missing before `" + utf8(text) + "`");
  }
  void flow_map(const Path& path) {
    const Place opened = place();
    check_depth(path);
    ++column;
    for (Seen seen;;) {
      flow_next(opened);
      if (peek() == '}') { ++column; return; }
      if (is_one_of(peek(), "&*!")) refuse_marks(path);
      const Place from = place();
      const std::string name = flow_key(path, opened);
      const Path inner = inside(path, name);
      note_key(inner, seen, name, from.line);
      flow_next(opened);
      const bool given = peek() == ':';
      if (given) {
        ++column;
        flow_next(opened);
      }
      if (!given || is_one_of(peek(), ",}")) refuse(inner, "`" + name +
        "` has no value: is it cut off by a comma? Put a text that holds a comma in quotes");
      else mark(inner, from, true, false, [&]() { value(0, inner, true, opened); });
      flow_follow(opened, '}');
    }
  }
  std::string flow_key(const Path& path, Place opened) {
    const size_t size = quoted(false);
    if (size > 0) return take_key(size);
    const Place from = place();
    plain_inside(path, opened);
    if (line == from.line && column == from.column) lose("a key is missing here");
    if (line == from.line) return utf8(here().substr((size_t) from.column - 1, (size_t) (column - from.column)));
    return utf8(trimmed(lines[from.line - 1].substr((size_t) from.column - 1))) + " " + utf8(trimmed(here().substr(0, at())));
  }
  void flow_list(const Path& path) {
    const Place opened = place();
    check_depth(path);
    ++column;
    for (int k = 1;; ++k) {
      flow_next(opened);
      if (peek() == ']') { ++column; return; }
      const Path inner = inside(path, std::to_string(k));
      if (peek() == ',') lose("an empty entry between commas");
      mark(inner, place(), true, false, [&]() { value(0, inner, true, opened); });
      flow_next(opened);
      if (peek() == ':') {
        check_closed(opened);
        refuse(inner, "a key and a value inside [ ]: put { } around them, or the text in quotes");
        ++column;
        flow_next(opened);
        if (!is_one_of(peek(), ",]")) value(0, inner, true, opened);
      }
      flow_follow(opened, ']');
    }
  }
public:
  std::vector<Mark> marks;
  std::vector<Refusal> refused;
  std::string lost;
  int lost_line = 0;
  Scanner(const Rcpp::CharacterVector& text, const Rcpp::Function& unquote) : unquote(unquote) {
    for (R_xlen_t i = 0; i < text.size(); ++i) {
      lines.push_back(characters(Rf_translateCharUTF8(text[i])));
      if (!lines.back().empty() && lines.back().back() == '\r') lines.back().pop_back();
    }
  }
  void scan() {
    try {
      if (!next()) return;
      directives();
      if (next()) block(-1, Path());
      if (next()) lose();
    } catch (const Lost& e) {
      lost = e.why;
      lost_line = std::min(line, (int) lines.size());
    }
  }
};

Rcpp::String text_of(const std::string& text) { return Rcpp::String(text, CE_UTF8); }

Rcpp::DataFrame table_of(const std::vector<Mark>& marks) {
  const R_xlen_t n = (R_xlen_t) marks.size();
  Rcpp::CharacterVector id(n), style(n);
  Rcpp::IntegerVector key_line(n), key_column(n), line(n), column(n), end_line(n), end_column(n);
  Rcpp::LogicalVector flow(n);
  for (R_xlen_t i = 0; i < n; ++i) {
    const Mark& mark = marks[(size_t) i];
    id[i] = text_of(mark.id);
    style[i] = mark.style;
    key_line[i] = mark.key_line;
    key_column[i] = mark.key_column;
    line[i] = mark.line;
    column[i] = mark.column;
    end_line[i] = mark.end_line;
    end_column[i] = mark.end_column;
    flow[i] = mark.flow;
  }
  using Rcpp::_;
  return Rcpp::DataFrame::create(_["id"] = id, _["key_line"] = key_line, _["key_column"] = key_column, _["line"] = line,
    _["column"] = column, _["end_line"] = end_line, _["end_column"] = end_column, _["style"] = style, _["flow"] = flow,
    _["stringsAsFactors"] = false);
}

}

// `unquote` gives the text of a quoted key. `lost` says why the scan ended before the text,
// and on which line.

// [[Rcpp::export]]
Rcpp::List scan_text(Rcpp::CharacterVector lines, Rcpp::Function unquote) {
  using Rcpp::_;
  Scanner scanner(lines, unquote);
  scanner.scan();
  Rcpp::List refused;
  for (const Refusal& one : scanner.refused) {
    Rcpp::CharacterVector path;
    for (const std::string& part : one.path) path.push_back(text_of(part));
    refused.push_back(Rcpp::List::create(_["line"] = one.line, _["path"] = path, _["message"] = text_of(one.why)));
  }
  Rcpp::RObject lost = R_NilValue;
  if (!scanner.lost.empty()) lost = Rcpp::List::create(_["message"] = text_of(scanner.lost), _["line"] = scanner.lost_line);
  return Rcpp::List::create(_["marks"] = table_of(scanner.marks), _["refused"] = refused, _["lost"] = lost);
}
