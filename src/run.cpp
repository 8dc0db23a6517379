#include <Rcpp/Lighter>
#include <R_ext/Altrep.h>
#include <vector>
#include "run.h"
using namespace Rcpp;

// Keys of many million records as one run of bytes. R sees plain texts: those that are asked for by
// their rows are made, and all of them (for good, since R goes by a text's address) once somebody
// looks at the whole.

namespace {

R_altrep_class_t run_class;

SEXP packed_of(SEXP x) { return VECTOR_ELT(R_altrep_data1(x), 0); }
SEXP starts_of(SEXP x) { return VECTOR_ELT(R_altrep_data1(x), 1); }

Run as_run(SEXP x) {
  Run out;
  out.bytes = RAW_RO(packed_of(x));
  out.end = out.bytes + Rf_xlength(packed_of(x));
  out.starts = REAL_RO(starts_of(x));
  out.n = (R_xlen_t) REAL_RO(VECTOR_ELT(R_altrep_data1(x), 2))[0];
  return out;
}

SEXP text_in(const Rbyte* from, size_t size) { return Rf_mkCharLenCE((const char*) from, (int) size, CE_UTF8); }

R_xlen_t run_length(SEXP x) { return (R_xlen_t) REAL_RO(VECTOR_ELT(R_altrep_data1(x), 2))[0]; }

SEXP spread(SEXP x) {
  if (R_altrep_data2(x) != R_NilValue) return R_altrep_data2(x);
  const Run run = as_run(x);
  SEXP out = PROTECT(Rf_allocVector(STRSXP, run.n));
  run.each([out](R_xlen_t row, const Rbyte* from, size_t size) { SET_STRING_ELT(out, row, text_in(from, size)); });
  R_set_altrep_data2(x, out);
  UNPROTECT(1);
  return out;
}

SEXP run_elt(SEXP x, R_xlen_t row) { return STRING_ELT(spread(x), row); }
void* run_data(SEXP x, Rboolean) { return DATAPTR(spread(x)); }
const void* run_data_or_null(SEXP x) { return R_altrep_data2(x) == R_NilValue ? nullptr : DATAPTR_RO(R_altrep_data2(x)); }

// A run of the packed texts (UTF-8, none of them a gap).
SEXP run_over(SEXP packed, R_xlen_t n, SEXP starts) {
  SEXP parts = PROTECT(Rf_allocVector(VECSXP, 3));
  SET_VECTOR_ELT(parts, 0, packed);
  SET_VECTOR_ELT(parts, 1, starts);
  SET_VECTOR_ELT(parts, 2, Rf_ScalarReal((double) n));
  MARK_NOT_MUTABLE(packed);
  SEXP out = PROTECT(R_new_altrep(run_class, parts, R_NilValue));
  MARK_NOT_MUTABLE(out);
  UNPROTECT(2);
  return out;
}

// The rows asked for, from 0; below 0 for one that is not there.
template <class Act> bool each_asked(SEXP at, R_xlen_t n, Act act) {
  const R_xlen_t size = Rf_xlength(at);
  bool all = true;
  for (R_xlen_t i = 0; i < size; ++i) {
    const double row = TYPEOF(at) == INTSXP ?
      (INTEGER_ELT(at, i) == NA_INTEGER ? NA_REAL : (double) INTEGER_ELT(at, i)) : REAL_ELT(at, i);
    const bool here = R_FINITE(row) && row >= 1 && row <= (double) n;
    all = all && here;
    act(i, here ? (R_xlen_t) row - 1 : -1);
  }
  return all;
}

// So many are a run themselves.
const R_xlen_t least_run = 4096;

SEXP run_subset(SEXP x, SEXP at, SEXP) {
  // Where all texts were made, R takes those.
  if (R_altrep_data2(x) != R_NilValue) return nullptr;
  const Run run = as_run(x);
  const R_xlen_t size = Rf_xlength(at);
  size_t bytes = 0;
  R_xlen_t last = -2;
  const Rbyte* next = run.bytes;
  // Rows that follow each other are found without a search.
  auto find = [&](R_xlen_t row) {
    const Rbyte* from = row == last + 1 && last >= 0 ? next : run.at(row);
    const Rbyte* to = Run::close_of(from, run.end);
    last = row;
    next = to + 1;
    return std::make_pair(from, (size_t) (to - from));
  };
  if (size >= least_run && each_asked(at, run.n, [&](R_xlen_t, R_xlen_t row) { if (row >= 0) bytes += find(row).second + 1; })) {
    SEXP packed = PROTECT(Rf_allocVector(RAWSXP, (R_xlen_t) bytes));
    SEXP starts = PROTECT(Rf_allocVector(REALSXP, (size + Run::step - 1) / Run::step));
    Rbyte* to = RAW(packed);
    last = -2;
    each_asked(at, run.n, [&](R_xlen_t i, R_xlen_t row) {
      const auto text = find(row);
      if (i % Run::step == 0) REAL(starts)[i / Run::step] = (double) (to - RAW(packed));
      std::memcpy(to, text.first, text.second + 1);
      to += text.second + 1;
    });
    SEXP out = run_over(packed, size, starts);
    UNPROTECT(2);
    return out;
  }
  last = -2;
  SEXP out = PROTECT(Rf_allocVector(STRSXP, size));
  each_asked(at, run.n, [&](R_xlen_t i, R_xlen_t row) {
    if (row < 0) return SET_STRING_ELT(out, i, NA_STRING);
    const auto text = find(row);
    SET_STRING_ELT(out, i, text_in(text.first, text.second));
  });
  UNPROTECT(1);
  return out;
}

int run_no_gaps(SEXP) { return 1; }

}

bool look_into_run(SEXP x, Run& out) {
  if (!ALTREP(x) || TYPEOF(x) != STRSXP || !R_altrep_inherits(x, run_class)) return false;
  out = as_run(x);
  return true;
}

// [[Rcpp::init]]
void begin_run(DllInfo* dll) {
  run_class = R_make_altstring_class("mavik_run", "mavik", dll);
  R_set_altrep_Length_method(run_class, run_length);
  R_set_altvec_Dataptr_method(run_class, run_data);
  R_set_altvec_Dataptr_or_null_method(run_class, run_data_or_null);
  R_set_altvec_Extract_subset_method(run_class, run_subset);
  R_set_altstring_Elt_method(run_class, run_elt);
  R_set_altstring_No_NA_method(run_class, run_no_gaps);
}

// What `pack_texts()` gives as texts again; NULL where one of them is a gap.

// [[Rcpp::export]]
SEXP run_texts(SEXP packed) {
  const Rbyte *bytes = RAW_RO(packed), *end = bytes + Rf_xlength(packed);
  std::vector<double> starts;
  R_xlen_t n = 0;
  const Rbyte* from = bytes;
  for (const Rbyte* to; (to = Run::close_of(from, end)); from = to + 1, ++n) {
    if (*from == Run::gap) return R_NilValue;
    if (n % Run::step == 0) starts.push_back((double) (from - bytes));
  }
  NumericVector held(starts.begin(), starts.end());
  return run_over(packed, n, held);
}

// The bytes of such texts; NULL of any other vector.

// [[Rcpp::export]]
SEXP run_bytes(SEXP x) {
  Run run;
  return look_into_run(x, run) ? packed_of(x) : R_NilValue;
}

// Whether all of such texts were made, because somebody looked at the whole.

// [[Rcpp::export]]
bool run_is_spread(SEXP x) {
  Run run;
  return look_into_run(x, run) && R_altrep_data2(x) != R_NilValue;
}

// The packed text of each row, by places (from 1) among packed texts; NULL where one of them has
// no place, is a gap, or may have to be trimmed: it begins or ends with more than plain letters.

// [[Rcpp::export]]
SEXP run_rows(SEXP packed, IntegerVector index) {
  const Rbyte *bytes = RAW_RO(packed), *end = bytes + Rf_xlength(packed);
  std::vector<size_t> starts;
  auto plain = [](Rbyte c) { return c > 0x20 && c < 0x7F; };
  const Rbyte* from = bytes;
  for (const Rbyte* to; (to = Run::close_of(from, end)); from = to + 1) {
    if (to > from && (!plain(*from) || !plain(to[-1]))) return R_NilValue;
    starts.push_back((size_t) (from - bytes));
  }
  const R_xlen_t known = (R_xlen_t) starts.size(), n = index.size();
  starts.push_back((size_t) (from - bytes));
  size_t size = 0;
  bool same = n == known;
  for (R_xlen_t i = 0; i < n; ++i) {
    const int place = index[i];
    if (place == NA_INTEGER || place < 1 || place > known) return R_NilValue;
    same = same && place == i + 1;
    size += starts[place] - starts[place - 1];
  }
  if (same) return packed;
  RawVector out = no_init((R_xlen_t) size);
  Rbyte* to = out.begin();
  for (R_xlen_t i = 0; i < n; ++i) {
    const size_t text = starts[index[i]] - starts[index[i] - 1];
    std::memcpy(to, bytes + starts[index[i] - 1], text);
    to += text;
  }
  return out;
}

// The rows (from 1) of such texts that hold nothing.

// [[Rcpp::export]]
IntegerVector run_blanks(SEXP x) {
  Run run;
  std::vector<int> out;
  if (look_into_run(x, run)) run.each([&out](R_xlen_t row, const Rbyte*, size_t size) { if (size == 0) out.push_back((int) row + 1); });
  return IntegerVector(out.begin(), out.end());
}

// The rows (from 1) of such texts that hold a letter.

// [[Rcpp::export]]
IntegerVector run_holding(SEXP x, std::string letter) {
  Run run;
  std::vector<int> out;
  if (look_into_run(x, run)) run.each([&](R_xlen_t row, const Rbyte* text, size_t size) {
    if (std::memchr(text, letter[0], size)) out.push_back((int) row + 1);
  });
  return IntegerVector(out.begin(), out.end());
}
