#ifndef MAVIK_CELLS_H
#define MAVIK_CELLS_H
#include <algorithm>
#include <atomic>
#include <climits>
#include <cmath>
#include <cstdint>
#include <cstdio>
#include <cstring>
#include <functional>
#include <memory>
#include <new>
#include <string>
#include <thread>
#include <utility>
#include <vector>
#ifdef __SSE2__
#include <emmintrin.h>
#endif

// Delimited text in one pass: cells are cut as RFC 4180 says, bytes are checked as
// UTF-8, records for their shape, and each cell is looked up among the distinct
// cells of its column, so that no text is made for a cell. A span of a file is read
// by itself and spans merge; that a span begins where a record does is verified by
// the one before it, and where it does not its part is read once more.

// Nothing of R is known here, so that the kernel can be tried by itself.

namespace cells {

typedef std::function<void()> Pause;
typedef unsigned char uchar;

struct Trouble {
  std::string kind;
  int line = 0, found = 0;
};

// What is rarely called stays out of the loops that call it.
#ifdef __GNUC__
#define MAVIK_RARE __attribute__((noinline, cold))
#else
#define MAVIK_RARE
#endif

// Eight bytes from a place; `first` and `last` of a text stand for the whole of it up to
// sixteen bytes.
inline uint64_t eight(const char* at) {
  uint64_t word;
  std::memcpy(&word, at, 8);
  return word;
}

// No branch hangs on the size, which is different from cell to cell. Behind the text eight bytes
// can be read.
inline void ends_of(const char* at, size_t size, uint64_t& first, uint64_t& last) {
#if defined(__BYTE_ORDER__) && __BYTE_ORDER__ == __ORDER_LITTLE_ENDIAN__
  const size_t held = size < 8 ? size : 8;
  const uint64_t mask = ~(~0ULL << 4 * held << 4 * held);
  first = eight(at) & mask;
  last = eight(at + size - held) & mask;
#else
  first = last = 0;
  const size_t held = std::min<size_t>(size, 8);
  std::memcpy(&first, at, held);
  std::memcpy(&last, at + size - held, held);
#endif
}

// Distinct texts in order of appearance.
class Texts {
  struct Text { const char* at; uint64_t first, last; uint32_t size; };
  struct Slot { uint32_t hash, place; };
  std::vector<std::unique_ptr<char[]>> blocks;
  size_t left = 0;
  char* next = nullptr;
  std::vector<Slot> slots = std::vector<Slot>(64, Slot{0, 0});

  static uint64_t mix(uint64_t h, uint64_t w) {
    h ^= w;
    return (h ^ (h >> 32)) * 0x9E3779B97F4A7C15ULL;
  }
  char* room(size_t size) {
    if (size > left || !next) {
      left = std::max<size_t>(size, known.size() < 64 ? 1024 : 65536);
      blocks.emplace_back(new char[left + 8]);
      next = blocks.back().get();
    }
    char* here = next;
    next += size;
    left -= size;
    return here;
  }
  void widen(size_t by = 4) {
    std::vector<Slot> old(slots.size() * by, Slot{0, 0});
    old.swap(slots);
    const size_t mask = slots.size() - 1;
    for (const Slot& slot : old) {
      if (!slot.place) continue;
      size_t at = slot.hash & mask;
      while (slots[at].place) at = (at + 1) & mask;
      slots[at] = slot;
    }
  }
public:
  std::vector<Text> known;
  // Near enough that nothing need be fetched beforehand.
  bool is_small() const { return slots.size() <= 8192; }
  // What a text is looked up by.
  struct Wanted { const char* at; size_t size; uint64_t first, last; uint32_t hash; };
  Wanted wanted(const char* at, size_t size) const {
    Wanted text;
    text.at = at;
    text.size = size;
    ends_of(at, size, text.first, text.last);
    uint64_t h = mix(text.first * 0x9E3779B97F4A7C15ULL, (text.last + size) * 0xC2B2AE3D27D4EB4FULL);
    if (size > 16) for (size_t i = 8; i + 8 < size; i += 8) h = mix(h, eight(at + i));
    // Its upper half, to which each byte of the text has contributed.
    text.hash = (uint32_t) (h >> 32);
    return text;
  }
  // Where there are many texts all are looked at before the first is looked up: their slots are
  // then at hand.
  template <class Each> void places(size_t n, std::vector<Wanted>& looked, Each wanted, uint32_t* out) {
    for (size_t i = 0; i < n; ++i) {
      looked[i] = wanted(i);
#ifdef __GNUC__
      __builtin_prefetch(&slots[looked[i].hash & (slots.size() - 1)]);
#endif
    }
    for (size_t i = 0; i < n; ++i) out[i] = place(looked[i]);
  }
  // Room for so many more.
  void expect(size_t more) {
    size_t by = 1;
    while (slots.size() * by < 2 * (known.size() + more)) by *= 2;
    if (by > 1) widen(by);
  }
  uint32_t place(const Wanted text) {
    const Slot* const held = slots.data();
    const size_t mask = slots.size() - 1;
    size_t slot = text.hash & mask;
    for (; held[slot].place; slot = (slot + 1) & mask) {
      if (held[slot].hash != text.hash) continue;
      const uint32_t place = held[slot].place - 1;
      const Text& own = known[place];
      if (own.size == text.size && own.first == text.first && own.last == text.last &&
        (text.size <= 16 || std::memcmp(own.at, text.at, text.size) == 0)) return place;
    }
    return add(text, slot);
  }
private:
  MAVIK_RARE uint32_t add(const Wanted text, size_t slot) {
    char* own = room(text.size);
    if (text.size > 0) std::memcpy(own, text.at, text.size);
    known.push_back({own, text.first, text.last, (uint32_t) text.size});
    slots[slot] = {text.hash, (uint32_t) known.size()};
    // Few texts that lie apart are found at the first look.
    if (known.size() * (is_small() ? 8 : 2) > slots.size()) widen();
    return (uint32_t) known.size() - 1;
  }
};

// Each record's place among the distinct texts, in as few bytes as hold it.
class Places {
  int width = 1;
  std::vector<uint8_t> small;
  std::vector<uint16_t> middle;
  std::vector<uint32_t> wide;
public:
  void push(uint32_t place) {
    if (width == 1) {
      if (place <= UINT8_MAX) { small.push_back((uint8_t) place); return; }
      middle.assign(small.begin(), small.end());
      std::vector<uint8_t>().swap(small);
      width = 2;
    }
    if (width == 2) {
      if (place <= UINT16_MAX) { middle.push_back((uint16_t) place); return; }
      wide.assign(middle.begin(), middle.end());
      std::vector<uint16_t>().swap(middle);
      width = 4;
    }
    wide.push_back(place);
  }
  // All of them below `most`.
  void push(const uint32_t* places, size_t n, size_t most) {
    const bool fits = width == 4 || most <= (width == 1 ? UINT8_MAX : UINT16_MAX) + 1u;
    if (!fits) for (size_t i = 0; i < n; ++i) push(places[i]);
    else if (width == 1) small.insert(small.end(), places, places + n);
    else if (width == 2) middle.insert(middle.end(), places, places + n);
    else wide.insert(wide.end(), places, places + n);
  }
  size_t size() const { return small.size() + middle.size() + wide.size(); }
  template <class Act> void each(Act act) const {
    if (width == 1) for (uint8_t place : small) act(place);
    else if (width == 2) for (uint16_t place : middle) act(place);
    else for (uint32_t place : wide) act(place);
  }
};

// The places of a span's records; `among` is where its texts stand in the column, empty for the
// first, whose texts begin it.
struct Piece { Places places; std::vector<uint32_t> among; };

struct Column {
  Texts texts;
  std::vector<Piece> pieces = std::vector<Piece>(1);
  size_t size() const {
    size_t n = 0;
    for (const Piece& piece : pieces) n += piece.places.size();
    return n;
  }
  // From 1 on, in the record's order.
  template <class Place> void fill(Place* out) const {
    for (const Piece& piece : pieces) {
      const uint32_t* among = piece.among.data();
      if (piece.among.empty()) piece.places.each([&](uint32_t place) { *out++ = (Place) (place + 1); });
      else piece.places.each([&](uint32_t place) { *out++ = (Place) (among[place] + 1); });
    }
  }
};

// The top bit of its size tells of doubled quotes that are still to be undone.
struct Cell {
  static constexpr size_t top = ~(~(size_t) 0 >> 1);
  const uchar* at;
  size_t marked;
  size_t size() const { return marked & ~top; }
  bool doubled() const { return marked & top; }
};

// The cells of some records, column by column: so the distinct cells of one column stay at hand
// while its cells are looked up.
class Batch {
  // No power of two, so that the columns of a record do not share a place in the cache.
  static constexpr size_t most = 120;
  size_t records = 0;
  std::vector<Cell> cells;
  uint32_t places[most];
  std::vector<std::string> undone = std::vector<std::string>(most);
  std::vector<Texts::Wanted> looked = std::vector<Texts::Wanted>(most);
  Texts::Wanted wanted(const Texts& texts, const Cell cell, size_t i) {
    const char* at = (const char*) cell.at;
    size_t size = cell.size();
    if (cell.doubled()) undo(undone[i], at, size);
    return texts.wanted(at, size);
  }
public:
  bool full() const { return records == most; }
  void add(const Cell* record, size_t n) {
    if (cells.empty()) cells.resize(most * n);
    for (size_t k = 0; k < n; ++k) cells[k * most + records] = record[k];
    ++records;
  }
  void look_up(std::vector<Column>& columns) {
    for (size_t k = 0; k < columns.size(); ++k) {
      Texts& texts = columns[k].texts;
      const Cell* cell = &cells[k * most];
      if (texts.is_small()) {
        for (size_t i = 0; i < records; ++i) places[i] = texts.place(wanted(texts, cell[i], i));
      } else {
        texts.places(records, looked, [&](size_t i) { return wanted(texts, cell[i], i); }, places);
      }
      columns[k].pieces[0].places.push(places, records, texts.known.size());
    }
    records = 0;
  }
  // `text` holds eight bytes more than its cell.
  MAVIK_RARE static void undo(std::string& text, const char*& at, size_t& size) {
    text.clear();
    for (size_t i = 0; i < size; ++i) { text += at[i]; if (at[i] == '"') ++i; }
    size = text.size();
    text.append(8, '\0');
    at = text.data();
  }
};

// Bytes of a file from one place on; what is not used up stays at the front. Behind the
// last byte there is room for a block more.
class Source {
  static constexpr size_t room = 64;
  std::FILE* file;
  std::vector<uchar> buffer;
  double place;
public:
  const uchar *at = nullptr, *end = nullptr;
  bool last = false;
  Source(const char* path, double from) : file(std::fopen(path, "rb")), buffer((1 << 16) + room), place(from) {
    at = end = buffer.data();
    if (!file) return;
#ifdef _WIN32
    _fseeki64(file, (long long) from, SEEK_SET);
#else
    fseeko(file, (off_t) from, SEEK_SET);
#endif
    more();
  }
  ~Source() { if (file) std::fclose(file); }
  Source(const Source&) = delete;
  Source& operator=(const Source&) = delete;
  bool opened() const { return file != nullptr; }
  // Where in the file the next byte stands.
  double where() const { return place - (double) (end - at); }
  void more() {
    size_t kept = (size_t) (end - at);
    if (kept > 0 && at != buffer.data()) std::memmove(buffer.data(), at, kept);
    // Large files are read in large pieces.
    if (kept + room == buffer.size() || (place > (1 << 20) && buffer.size() < (1 << 22))) buffer.resize(4 * buffer.size());
    const size_t filled = std::fread(buffer.data() + kept, 1, buffer.size() - room - kept, file);
    place += (double) filled;
    last = filled == 0;
    at = buffer.data();
    end = at + kept + filled;
  }
};

// How many bytes a character takes; 0 where it is none, -1 where the bytes end in it.
inline int character(const uchar* at, const uchar* end) {
  const uchar c = *at;
  int size = c < 0x80 ? 1 : c >= 0xC2 && c <= 0xDF ? 2 : (c & 0xF0) == 0xE0 ? 3 : c >= 0xF0 && c <= 0xF4 ? 4 : 0;
  uchar low = c == 0xE0 ? 0xA0 : c == 0xF0 ? 0x90 : 0x80, high = c == 0xED ? 0x9F : c == 0xF4 ? 0x8F : 0xBF;
  for (int i = 1; i < size; ++i) {
    if (at + i == end) return -1;
    if (at[i] < low || at[i] > high) return 0;
    low = 0x80;
    high = 0xBF;
  }
  return size;
}

const double everything = 1e300;

enum Outcome { RECORD, BLANK, MORE, TROUBLE };

class Cutter {
  const uchar mark;
  // The bytes that may mean something among the 64 from `block` on that are still ahead.
  const uchar* block = nullptr;
  uint64_t ahead = 0;
  static constexpr uint64_t ones = 0x0101010101010101ULL, tops = 0x8080808080808080ULL;
  // The top bit of each byte that is zero.
  static uint64_t zeros(uint64_t word) { return ~(((word & ~tops) + ~tops) | word | ~tops); }
  void load(const uchar* at, const uchar* end) {
    block = at;
    ahead = 0;
#ifdef __SSE2__
    const __m128i quote = _mm_set1_epi8('"'), own = _mm_set1_epi8((char) mark), space = _mm_set1_epi8(32);
    for (int k = 0; k < 4; ++k) {
      const __m128i word = _mm_loadu_si128((const __m128i*) (at + 16 * k));
      // Bytes from 128 on are less than a space as well.
      const __m128i found = _mm_or_si128(_mm_or_si128(_mm_cmpeq_epi8(word, quote), _mm_cmpeq_epi8(word, own)), _mm_cmplt_epi8(word, space));
      ahead |= (uint64_t) (unsigned) _mm_movemask_epi8(found) << (16 * k);
    }
#elif defined(__BYTE_ORDER__) && __BYTE_ORDER__ == __ORDER_LITTLE_ENDIAN__
    for (int k = 0; k < 8; ++k) {
      const uint64_t word = eight((const char*) at + 8 * k);
      const uint64_t spaced = (word & ~tops) + ones * 96;
      const uint64_t found = zeros(word ^ (ones * '"')) | zeros(word ^ (ones * mark)) | (~spaced & tops) | (word & tops);
      ahead |= ((found >> 7) * 0x0102040810204080ULL >> 56) << (8 * k);
    }
#else
    for (int k = 0; k < 64; ++k) ahead |= (uint64_t) (at[k] < 32 || at[k] > 126 || at[k] == '"' || at[k] == mark) << k;
#endif
    const std::ptrdiff_t left = end - at;
    if (left < 64) ahead &= left <= 0 ? 0 : ~0ULL >> (64 - left);
  }
  static int lowest(uint64_t bits) {
#ifdef __GNUC__
    return __builtin_ctzll(bits);
#else
    int at = 0;
    while (!(bits >> at & 1)) ++at;
    return at;
#endif
  }
  // The next byte that may mean something, and over it; the end where there is none.
  const uchar* next(const uchar* end) {
    while (!ahead) {
      if (end - block <= 64) return end;
      load(block + 64, end);
    }
    const uchar* p = block + lowest(ahead);
    ahead &= ahead - 1;
    return p;
  }
  // What stands before a place is over.
  void skip(const uchar* to, const uchar* end) {
    while (to - block >= 64 && end - block > 64) load(block + 64, end);
    if (to - block >= 64) ahead = 0;
    else if (to > block) ahead &= ~0ULL << (to - block);
  }
  // Cuts cells as long as a mark is the next byte that means something; gives that byte of the
  // cell that is left at `start`.
  const uchar* cut_plain(const uchar*& start, const uchar* end) {
    uint64_t bits = ahead;
    const uchar *from = start, *p = end;
    Cell *out = cells.data() + count, *full = cells.data() + cells.size();
    for (;;) {
      while (!bits && end - block > 64) { load(block + 64, end); bits = ahead; }
      if (!bits) { p = end; break; }
      p = block + lowest(bits);
      bits &= bits - 1;
      if (*p != mark) break;
      if (out == full) {
        const size_t held = cells.size();
        cells.resize(2 * held);
        out = cells.data() + held;
        full = cells.data() + cells.size();
      }
      *out++ = {from, (size_t) (p - from)};
      from = p + 1;
    }
    ahead = bits;
    count = (size_t) (out - cells.data());
    start = from;
    return p;
  }
  Outcome fail(const char* kind, int line) { trouble.kind = kind; trouble.line = line; return TROUBLE; }
public:
  std::vector<Cell> cells = std::vector<Cell>(64);
  size_t count = 0;
  Trouble trouble;
  int line = 1;
  explicit Cutter(uchar mark) : mark(mark) {}
  // The bytes from a place on are other ones than before.
  void begin(const uchar* at, const uchar* end) { load(at, end); }
  // Cuts the record that begins at `from`, and moves `from` and the line behind it.
  Outcome cut(const uchar*& from, const uchar* end, bool last) {
    const uchar* start = from;
    int here = line;
    count = 0;
    for (;;) {
      const uchar* p = cut_plain(start, end);
      if (start == end && !last) return MORE;
      const bool quoted = p == start && p < end && *p == '"';
      const int opened = here;
      if (quoted) { p = next(end); ++start; }
      const uchar* stop = nullptr;
      bool doubled = false;
      for (; !stop; p = stop ? p : next(end)) {
        if (p == end) {
          if (!last) return MORE;
          if (quoted) return fail("unclosed", opened);
          stop = p;
          continue;
        }
        const uchar c = *p;
        if (c == mark || c == '\n') {
          if (!quoted) stop = p;
          else if (c == '\n') ++here;
        } else if (c == '"') {
          if (!quoted) continue;
          if (p + 1 == end && !last) return MORE;
          if (p + 1 < end && p[1] == '"') { doubled = true; next(end); continue; }
          stop = p++;
        } else if (c == '\r') {
          if (quoted) continue;
          if (p + 1 == end && !last) return MORE;
          if (p + 1 < end && p[1] != '\n') return fail("carriage", here);
          stop = p++;
          skip(p + 1, end);
        } else if (c == 0) {
          return fail("nul", here);
        } else if (c >= 128) {
          const int size = character(p, end);
          if (size < 0 && !last) return MORE;
          if (size < 0 && quoted) return fail("unclosed", opened);
          if (size <= 0) return fail("encoding", here);
          skip(p + size, end);
        }
      }
      if (quoted) {
        if (p < end && *p == '\r') {
          if (p + 1 == end && !last) return MORE;
          ++p;
          if (p < end && *p != '\n') return fail("after_quote", here);
        }
        if (p == end && !last) return MORE;
        if (p < end && *p != mark && *p != '\n') return fail("after_quote", here);
        skip(p + 1, end);
      }
      if (count == cells.size()) cells.resize(2 * count);
      cells[count++] = {start, (size_t) (stop - start) | (doubled ? Cell::top : 0)};
      if (p < end && *p == mark) { start = p + 1; continue; }
      const bool blank = count == 1 && !quoted && stop == start;
      if (p < end) { ++p; ++here; }
      from = p;
      line = here;
      return blank ? BLANK : RECORD;
    }
  }
};

// The records of a span: those that begin in it.
struct Part {
  std::vector<Column> columns;
  std::vector<std::vector<std::string>> head;
  std::vector<int> lines;
  Trouble trouble;
  int expected = 0, line = 1, most = INT_MAX;
  double from = 0, end = 0;
};

inline std::vector<std::string> texts_of(const Cell* cells, size_t n) {
  std::vector<std::string> out;
  for (size_t k = 0; k < n; ++k) {
    const Cell& cell = cells[k];
    std::string undone;
    const char* at = (const char*) cell.at;
    size_t size = cell.size();
    if (cell.doubled()) Batch::undo(undone, at, size);
    out.emplace_back(at, size);
  }
  return out;
}

inline bool all_blank(const Cell* cells, size_t n) {
  if (n < 2) return false;
  for (size_t k = 0; k < n; ++k) if (cells[k].size() > 0) return false;
  return true;
}

// `heads` records are kept as they stand. `stop` ends the work of all spans.
inline void read_part(Part& part, const char* path, uchar mark, int skip, int heads, double to, std::atomic<bool>& stop, const Pause& pause) {
  Source source(path, part.from);
  if (!source.opened()) { part.trouble.kind = "unopened"; return; }
  Cutter cutter(mark);
  cutter.line = part.line;
  if (part.from == 0) {
    const size_t held = (size_t) (source.end - source.at);
    const uchar first = held > 0 ? source.at[0] : 0;
    if (first == 0xFF || first == 0xFE) { part.trouble.kind = "utf16"; part.trouble.line = 1; return; }
    if (first == 0xEF) {
      if (held < 3 || source.at[1] != 0xBB || source.at[2] != 0xBF) { part.trouble.kind = "encoding"; part.trouble.line = 1; return; }
      source.at += 3;
    }
    while (cutter.line <= skip && !(source.at == source.end && source.last)) {
      if (source.at == source.end) { source.more(); continue; }
      if (*source.at++ == '\n') ++cutter.line;
    }
  }
  Batch batch;
  cutter.begin(source.at, source.end);
  while (!(source.at == source.end && source.last)) {
    if (source.where() >= to || stop || (int) part.lines.size() >= part.most) break;
    const int record_line = cutter.line;
    const Outcome outcome = cutter.cut(source.at, source.end, source.last);
    if (outcome == MORE) {
      batch.look_up(part.columns);
      source.more();
      cutter.begin(source.at, source.end);
      pause();
      continue;
    }
    if (outcome == TROUBLE) { part.trouble = cutter.trouble; break; }
    if (outcome == BLANK) continue;
    const int found = (int) cutter.count;
    if (part.expected == 0) part.expected = found;
    // Delimiters with nothing between them are nobody's record, as a blank row of a sheet is none.
    if (found == part.expected && (int) part.head.size() >= heads && all_blank(cutter.cells.data(), cutter.count)) continue;
    part.lines.push_back(record_line);
    if (found != part.expected) {
      part.trouble.kind = found < part.expected ? "short" : "long";
      part.trouble.line = record_line;
      part.trouble.found = found;
      break;
    }
    if ((int) part.head.size() < heads) {
      part.head.push_back(texts_of(cutter.cells.data(), cutter.count));
      continue;
    }
    if (part.columns.empty()) part.columns.resize(found);
    batch.add(cutter.cells.data(), cutter.count);
    if (batch.full()) batch.look_up(part.columns);
  }
  batch.look_up(part.columns);
  part.end = source.where();
  part.line = cutter.line;
}

// Where the texts of one column stand among those of another, to which new ones are added.
inline std::vector<uint32_t> places_among(Texts& texts, const Texts& others) {
  const size_t n = others.known.size(), block = 64;
  std::vector<uint32_t> out(n);
  std::vector<Texts::Wanted> looked(block);
  if (!texts.is_small()) texts.expect(n);
  for (size_t from = 0; from < n; from += block) texts.places(std::min(block, n - from), looked, [&](size_t i) {
    return texts.wanted(others.known[from + i].at, others.known[from + i].size);
  }, &out[from]);
  return out;
}

// Puts a span behind another.
inline void merge(Part& part, Part& next) {
  const int by = part.line - 1;
  for (int line : next.lines) part.lines.push_back(line + by);
  if (part.columns.empty()) part.columns.resize(next.columns.size());
  for (size_t k = 0; k < next.columns.size(); ++k) {
    Column& column = part.columns[k];
    Piece piece = std::move(next.columns[k].pieces[0]);
    piece.among = places_among(column.texts, next.columns[k].texts);
    column.pieces.push_back(std::move(piece));
    next.columns[k] = Column();
  }
  part.trouble = next.trouble;
  if (!part.trouble.kind.empty()) part.trouble.line += by;
  part.line = next.line + by;
  part.end = next.end;
}

inline double size_of(const char* path) {
  std::FILE* file = std::fopen(path, "rb");
  if (!file) return 0;
#ifdef _WIN32
  _fseeki64(file, 0, SEEK_END);
  const double size = (double) _ftelli64(file);
#else
  fseeko(file, 0, SEEK_END);
  const double size = (double) ftello(file);
#endif
  std::fclose(file);
  return size;
}

// Behind the next line feed; most often a record begins there.
inline double likely_start(const char* path, double from) {
  Source source(path, from);
  while (!(source.at == source.end && source.last)) {
    if (source.at == source.end) { source.more(); continue; }
    const void* found = std::memchr(source.at, '\n', (size_t) (source.end - source.at));
    if (found) { source.at = (const uchar*) found + 1; break; }
    source.at = source.end;
  }
  return source.where();
}

// Does `act` for each number below `n`, by so many threads; this one is thread 0.
template <class Act> void share(size_t n, int threads, Act act) {
  std::atomic<size_t> next(0);
  std::atomic<bool> failed(false);
  auto work = [&](int thread) { for (size_t k; !failed && (k = next++) < n;) act(k, thread); };
  std::vector<std::thread> others;
  for (int t = 1; t < threads; ++t) others.emplace_back([&, t]() {
    try { work(t); } catch (...) { failed = true; }
  });
  auto join = [&]() { for (std::thread& thread : others) thread.join(); };
  try { work(0); } catch (...) {
    failed = true;
    join();
    throw;
  }
  join();
  if (failed) throw std::bad_alloc();
}

// All spans, the last of which ends at `end`; several at once.
inline void read_parts(std::vector<Part>& parts, const char* path, uchar mark, int skip, int heads, double end, int threads, const Pause& pause) {
  std::atomic<bool> stop(false);
  share(parts.size(), threads, [&](size_t k, int thread) {
    const double to = k + 1 < parts.size() ? parts[k + 1].from : end;
    const bool first = k == 0;
    try {
      read_part(parts[k], path, mark, first ? skip : 0, first ? heads : 0, to, stop, thread == 0 ? pause : []() {});
    } catch (...) {
      stop = true;
      throw;
    }
  });
}

// The records that begin between where `first` does and `end`, read by so many `threads` in spans
// of about `smallest` bytes, so that no thread waits long for another. `pause` is called now and
// then, and may throw.
inline Part read_file(Part first, const char* path, uchar mark, int skip, int heads, double end, int threads, double smallest, const Pause& pause) {
  const double begin = first.from, stop_at = std::min(end, size_of(path)), size = stop_at - begin;
  threads = (int) std::max(1.0, std::min((double) threads, size / smallest));
  if (first.most < INT_MAX) threads = 1;
  const int spans = threads == 1 ? 1 : (int) std::min(8.0 * threads, size / smallest);
  std::vector<Part> parts;
  parts.push_back(std::move(first));
  for (int k = 1; k < spans; ++k) {
    const double from = likely_start(path, begin + std::floor(size * k / spans));
    if (from <= parts.back().from || from >= stop_at) continue;
    parts.emplace_back();
    parts.back().from = from;
  }
  read_parts(parts, path, mark, skip, heads, end, threads, pause);
  Part& whole = parts[0];
  for (size_t k = 1; k < parts.size() && whole.trouble.kind.empty(); ++k) {
    Part& next = parts[k];
    const double to = k + 1 < parts.size() ? parts[k + 1].from : end;
    if (whole.end >= to) continue;
    const bool fits = next.from == whole.end && (int) whole.head.size() == heads &&
      (next.expected == whole.expected || next.expected == 0);
    if (fits) { merge(whole, next); continue; }
    // Not where a record begins, or of another width: once more, from the known place.
    std::atomic<bool> stop(false);
    Part again;
    again.from = whole.end;
    again.expected = whole.expected;
    read_part(again, path, mark, 0, heads - (int) whole.head.size(), to, stop, pause);
    for (auto& row : again.head) whole.head.push_back(row);
    whole.expected = again.expected;
    merge(whole, again);
  }
  return std::move(whole);
}

}

#endif
