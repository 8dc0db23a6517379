// The routines of Rcpp's own library that kernels need at every call. To load Rcpp takes longer than
// all else of a short command, so that it is loaded only where something else of it is called, as
// when an error is made.
#ifndef MAVIK_ROUTINES_H
#define MAVIK_ROUTINES_H

#ifndef R_NO_REMAP
#define R_NO_REMAP
#endif
#include <cstring>
#include <R.h>
#include <Rinternals.h>
#include <R_ext/Rdynload.h>

namespace routines {

// What R must not clear away: cells that know their neighbours, so that each is taken out at once.
inline SEXP first_kept() {
  static SEXP first = nullptr;
  if (first == nullptr) R_PreserveObject(first = Rf_cons(R_NilValue, R_NilValue));
  return first;
}

inline SEXP keep(SEXP object) {
  if (object == R_NilValue) return object;
  PROTECT(object);
  SEXP before = first_kept(), behind = CDR(before), cell = PROTECT(Rf_cons(before, behind));
  SET_TAG(cell, object);
  SETCDR(before, cell);
  if (behind != R_NilValue) SETCAR(behind, cell);
  UNPROTECT(2);
  return cell;
}

inline void let_go(SEXP cell) {
  if (cell == R_NilValue) return;
  SEXP before = CAR(cell), behind = CDR(cell);
  SETCDR(before, behind);
  if (behind != R_NilValue) SETCAR(behind, before);
}

// No kernel draws at random.
inline unsigned long draw_nothing() { return 0; }
inline void* address(SEXP x) { return DATAPTR(x); }
inline SEXP text_at(SEXP x, R_xlen_t i) { return STRING_ELT(x, i); }
inline void put_text(SEXP x, R_xlen_t i, SEXP text) { SET_STRING_ELT(x, i, text); }
inline const char* bytes_at(SEXP x, R_xlen_t i) { return CHAR(STRING_ELT(x, i)); }
inline const char* bytes_of(SEXP text) { return CHAR(text); }

// Called where the name of a routine is looked up, which is once.
inline DL_FUNC find(const char* package, const char* name) {
  const struct { const char* name; DL_FUNC routine; } own[] = {
    {"Rcpp_precious_preserve", (DL_FUNC) keep}, {"Rcpp_precious_remove", (DL_FUNC) let_go},
    {"enterRNGScope", (DL_FUNC) draw_nothing}, {"exitRNGScope", (DL_FUNC) draw_nothing},
    {"dataptr", (DL_FUNC) address}, {"get_string_elt", (DL_FUNC) text_at}, {"set_string_elt", (DL_FUNC) put_text},
    {"char_get_string_elt", (DL_FUNC) bytes_at}, {"char_nocheck", (DL_FUNC) bytes_of}
  };
  for (const auto& one : own) if (std::strcmp(one.name, name) == 0) return one.routine;
  SEXP call = PROTECT(Rf_lang2(Rf_install("loadNamespace"), PROTECT(Rf_mkString(package))));
  int failed = 0;
  R_tryEvalSilent(call, R_BaseEnv, &failed);
  UNPROTECT(2);
  return (R_GetCCallable)(package, name);
}

}

// So Rcpp's headers ask for them here.
#define R_GetCCallable(package, name) routines::find(package, name)

#endif
