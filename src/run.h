#ifndef MAVIK_RUN_H
#define MAVIK_RUN_H
#include <Rcpp/Lighter>
#include <cstring>

// Texts one behind the other in one run of bytes, each closed by a zero, and where every so-manieth
// begins.
struct Run {
  static constexpr R_xlen_t step = 16;
  // What stands for a gap among packed texts: a byte that UTF-8 does not have.
  static constexpr Rbyte gap = 0xFF;
  const Rbyte* bytes = nullptr;
  const Rbyte* end = nullptr;
  const double* starts = nullptr;
  R_xlen_t n = 0;
  static const Rbyte* close_of(const Rbyte* from, const Rbyte* end) {
    return from < end ? (const Rbyte*) std::memchr(from, 0, (size_t) (end - from)) : nullptr;
  }
  // Where a row's text (from 0) begins.
  const Rbyte* at(R_xlen_t row) const {
    const Rbyte* from = bytes + (size_t) starts[row / step];
    for (R_xlen_t k = row % step; k > 0; --k) from = close_of(from, end) + 1;
    return from;
  }
  // `act` gets each row, where its text begins, and its size.
  template <class Act> void each(Act act) const {
    const Rbyte* from = bytes;
    for (R_xlen_t row = 0; row < n; ++row) {
      const Rbyte* to = close_of(from, end);
      act(row, from, (size_t) (to - from));
      from = to + 1;
    }
  }
};

// Whether a vector is such a run; then what it is made of.
bool look_into_run(SEXP x, Run& out);

// Packed texts as such a vector.
SEXP run_texts(SEXP packed);

#endif
