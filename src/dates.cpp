// Dates and date-times by the tokens of a pattern: seconds since 1970-01-01 in
// the proleptic Gregorian calendar; NA where a text does not fit or names no
// real moment.
#include <Rcpp/Lighter>
#include <algorithm>
#include <string>
#include <vector>

namespace {

bool digits(const char*& at, const char* end, int least, int most, long& value) {
  value = 0;
  int n = 0;
  while (at < end && n < most && *at >= '0' && *at <= '9') { value = value * 10 + (*at - '0'); ++at; ++n; }
  return n >= least;
}

bool leap(long year) { return (year % 4 == 0 && year % 100 != 0) || year % 400 == 0; }

long month_days(long year, long month) {
  static const int length[] = {31, 28, 31, 30, 31, 30, 31, 31, 30, 31, 30, 31};
  return length[month - 1] + (month == 2 && leap(year) ? 1 : 0);
}

// Rounded down, also below zero.
long whole_parts(long a, long b) { return a / b - (a % b < 0 ? 1 : 0); }

// A day's number is what lies before it: 365 days for each earlier year and one
// more for each leap year among them (every fourth, but for the hundredth, but
// for the four-hundredth), the earlier months of its own year, and its day.
double day_number(long year, long month, long day) {
  const long years = year - 1;
  double days = 365.0 * years + whole_parts(years, 4) - whole_parts(years, 100) + whole_parts(years, 400);
  for (long earlier = 1; earlier < month; ++earlier) days += month_days(year, earlier);
  return days + day;
}

double days_since_1970(long year, long month, long day) {
  static const double start = day_number(1970, 1, 1);
  return day_number(year, month, day) - start;
}

bool zone(const char*& at, const char* end, long& minutes) {
  if (at < end && *at == 'Z') { ++at; minutes = 0; return true; }
  if (at >= end || (*at != '+' && *at != '-')) return false;
  int sign = *at++ == '-' ? -1 : 1;
  long hour, rest = 0;
  if (!digits(at, end, 2, 2, hour) || hour > 15) return false;
  if (at < end && *at == ':') ++at;
  if (at < end && (!digits(at, end, 2, 2, rest) || rest > 59)) return false;
  minutes = sign * (hour * 60 + rest);
  return true;
}

struct Token {
  char letter;  // 0 for a literal
  int least;
  std::string literal;
};

Token token_of(const std::string& text) {
  static const std::string letters = "yMdHhmsSaX";
  if (text != "T" && letters.find(text[0]) != std::string::npos) return {text[0], static_cast<int>(text.size()), ""};
  return {0, 0, text[0] == '\'' ? text.substr(1, text.size() - 2) : text};
}

double read_one(const char* at, const char* end, const std::vector<Token>& tokens) {
  long year = 0, month = 1, day = 1, hour = 0, minute = 0, second = 0, shift = 0;
  double fraction = 0;
  int half = 0;
  for (const Token& token : tokens) {
    bool good = true;
    switch (token.letter) {
      case 'y': good = digits(at, end, 4, 4, year); break;
      case 'M': good = digits(at, end, token.least, 2, month); break;
      case 'd': good = digits(at, end, token.least, 2, day); break;
      case 'H': good = digits(at, end, token.least, 2, hour); break;
      case 'h': good = digits(at, end, token.least, 2, hour) && hour >= 1 && hour <= 12; break;
      case 'm': good = digits(at, end, token.least, 2, minute); break;
      case 's': good = digits(at, end, token.least, 2, second); break;
      case 'S': {
        double unit = 0.1;
        good = at < end && *at >= '0' && *at <= '9';
        while (at < end && *at >= '0' && *at <= '9') { fraction += (*at++ - '0') * unit; unit /= 10; }
        break;
      }
      case 'X': good = zone(at, end, shift); break;
      case 'a':
        good = end - at >= 2 && (at[0] == 'a' || at[0] == 'A' || at[0] == 'p' || at[0] == 'P') && (at[1] == 'm' || at[1] == 'M');
        if (good) { half = at[0] == 'p' || at[0] == 'P' ? 2 : 1; at += 2; }
        break;
      default:
        good = static_cast<std::size_t>(end - at) >= token.literal.size() && std::equal(token.literal.begin(), token.literal.end(), at);
        if (good) at += token.literal.size();
    }
    if (!good) return NA_REAL;
  }
  if (at != end || month < 1 || month > 12 || day < 1 || day > month_days(year, month)) return NA_REAL;
  if (hour > 23 || minute > 59 || second > 59) return NA_REAL;
  if (half > 0) hour = hour % 12 + (half == 2 ? 12 : 0);
  return days_since_1970(year, month, day) * 86400.0 + hour * 3600.0 + (minute - shift) * 60.0 + second + fraction;
}

}  // namespace

// [[Rcpp::export(rng = false)]]
Rcpp::NumericVector dates_parse(Rcpp::CharacterVector x, Rcpp::CharacterVector tokens) {
  std::vector<Token> parts;
  for (R_xlen_t i = 0; i < tokens.size(); ++i) parts.push_back(token_of(Rcpp::as<std::string>(tokens[i])));
  Rcpp::NumericVector out(x.size(), NA_REAL);
  for (R_xlen_t i = 0; i < x.size(); ++i) {
    SEXP cell = STRING_ELT(x, i);
    if (cell == NA_STRING) continue;
    out[i] = read_one(CHAR(cell), CHAR(cell) + LENGTH(cell), parts);
  }
  return out;
}
