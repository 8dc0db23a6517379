// Reads files with any slip by the kernel, in one span and in several, under the
// compiler's sanitizers: both must say the same.
//   sanitize FILE TIMES WORK
#include "../src/cells.h"
#include <cstdlib>
#include <fstream>
#include <iostream>
#include <random>
#include <sstream>

static std::string told(cells::Part part) {
  std::ostringstream out;
  out << part.trouble.kind << ' ' << part.trouble.line << ' ' << part.trouble.found;
  if (!part.trouble.kind.empty()) return out.str();
  for (int line : part.lines) out << ' ' << line;
  for (cells::Column& column : part.columns) {
    std::vector<uint32_t> places(column.size());
    column.fill(places.data());
    for (uint32_t place : places) {
      const auto& text = column.texts.known[place - 1];
      out << '\x1f' << std::string(text.at, text.size);
    }
  }
  return out.str();
}

int main(int count, char** given) {
  if (count < 4) return 2;
  std::ifstream in(given[1], std::ios::binary);
  const std::string whole((std::istreambuf_iterator<char>(in)), std::istreambuf_iterator<char>());
  const char* slips[] = {"\"", ",", "\n", "\r\n", "\r", "x", "\xC3", "\xA9", "\xE2\x82", "\xF4\x90", "\"\"", ""};
  std::mt19937 random(7);
  const long times = std::atol(given[2]);
  long sound = 0;
  for (long i = 0; i < times; ++i) {
    const size_t from = random() % (whole.size() / 2), size = 1 + random() % 3000;
    std::string text = whole.substr(whole.find('\n', from) + 1, size);
    text.erase(text.rfind('\n') == std::string::npos ? text.size() : text.rfind('\n') + 1);
    if (text.empty()) text = "a";
    for (int slip = (int) (random() % 4); slip > 0; --slip) {
      const size_t at = random() % (text.size() + 1);
      std::string put = slips[random() % 12];
      if (random() % 50 == 0) put = std::string(1, '\0');
      text.replace(at, random() % 2, put);
      if (text.empty()) text = "a";
    }
    std::ofstream(given[3], std::ios::binary) << text;
    const int heads = (int) (random() % 3), skip = (int) (random() % 2);
    const std::string one = told(cells::read_file(cells::Part(), given[3], ',', skip, heads, cells::everything, 1, 1, []() {}));
    const std::string several = told(cells::read_file(cells::Part(), given[3], ',', skip, heads, cells::everything, 2 + (int) (random() % 3), 1, []() {}));
    if (one != several) { std::cout << "file " << i << " reads otherwise in several spans\n"; return 1; }
    if (one[0] == ' ') ++sound;
  }
  std::cout << times << " files read, " << sound << " of them sound\n";
  return 0;
}
