#include <Rcpp/Lighter>
#include <R_ext/Altrep.h>
#include <algorithm>
#include <cerrno>
#include <cstdio>
#include <cstring>
#include <set>
#include <string>
#ifndef _WIN32
#include <fcntl.h>
#include <sys/mman.h>
#include <unistd.h>
#endif
#include "looked.h"
#include "mapped.h"
using namespace Rcpp;

// Columns that lie in a file and not in memory: R sees a plain vector, and the system
// brings in the pages that are looked at. Such a vector is never written to: whatever
// would change it takes a copy first. Where files cannot be mapped it is read as a whole.

namespace {

struct Mapping { void* at; size_t size; bool warm; };

std::set<Mapping*>& mappings() {
  static std::set<Mapping*> all;
  return all;
}

// How many bytes may be looked at before what lies in files leaves this process's memory; it
// is there again as soon as somebody looks.
const size_t most_warm = 400u << 20;
size_t warm = 0;

void rest_all_but(const Mapping* used) {
  for (Mapping* mapping : mappings()) {
    if (mapping == used) continue;
#ifndef _WIN32
    if (mapping->warm) madvise(mapping->at, mapping->size, MADV_DONTNEED);
#endif
    mapping->warm = false;
  }
  warm = used ? used->size : 0;
}

Mapping* looked_at(SEXP x) {
  Mapping* mapping = static_cast<Mapping*>(R_ExternalPtrAddr(R_altrep_data1(x)));
  if (mapping->warm) return mapping;
  mapping->warm = true;
  warm += mapping->size;
  if (warm > most_warm) rest_all_but(mapping);
  return mapping;
}

R_altrep_class_t byte_class, whole_class, number_class, text_class;

const void* bytes_of(SEXP x) { return static_cast<Mapping*>(R_ExternalPtrAddr(R_altrep_data1(x)))->at; }
const int* wholes(SEXP x) { return static_cast<const int*>(bytes_of(x)); }
const double* numbers(SEXP x) { return static_cast<const double*>(bytes_of(x)); }

R_xlen_t byte_length(SEXP x) { return (R_xlen_t) looked_at(x)->size; }
R_xlen_t whole_length(SEXP x) { return (R_xlen_t) (looked_at(x)->size / sizeof(int)); }
R_xlen_t number_length(SEXP x) { return (R_xlen_t) (looked_at(x)->size / sizeof(double)); }
void* data_at(SEXP x, Rboolean) { return looked_at(x)->at; }
const void* data_or_null(SEXP x) { return looked_at(x)->at; }
Rbyte byte_at(SEXP x, R_xlen_t i) { return static_cast<const Rbyte*>(bytes_of(x))[i]; }
int whole_at(SEXP x, R_xlen_t i) { return wholes(x)[i]; }
double number_at(SEXP x, R_xlen_t i) { return numbers(x)[i]; }

SEXP whole_subset(SEXP x, SEXP at, SEXP) {
  SEXP out = PROTECT(Rf_allocVector(INTSXP, Rf_xlength(at)));
  const int* from = wholes(x);
  pick([from](R_xlen_t i) { return from[i]; }, whole_length(x), at, NA_INTEGER, INTEGER(out));
  UNPROTECT(1);
  return out;
}

SEXP number_subset(SEXP x, SEXP at, SEXP) {
  SEXP out = PROTECT(Rf_allocVector(REALSXP, Rf_xlength(at)));
  const double* from = numbers(x);
  pick([from](R_xlen_t i) { return from[i]; }, number_length(x), at, NA_REAL, REAL(out));
  UNPROTECT(1);
  return out;
}

// A text is the place of each element among the distinct ones; `data2` is the whole as
// R's own vector, once somebody asked for its address.
SEXP places_of(SEXP x) { return VECTOR_ELT(R_altrep_data1(x), 0); }
SEXP known_of(SEXP x) { return VECTOR_ELT(R_altrep_data1(x), 1); }
R_xlen_t text_length(SEXP x) { return Rf_xlength(places_of(x)); }
SEXP text_at(SEXP x, R_xlen_t i) {
  if (R_altrep_data2(x) != R_NilValue) return STRING_ELT(R_altrep_data2(x), i);
  const int place = INTEGER_ELT(places_of(x), i);
  return place == NA_INTEGER ? NA_STRING : STRING_ELT(known_of(x), place - 1);
}
void* text_data(SEXP x, Rboolean) {
  if (R_altrep_data2(x) == R_NilValue) {
    const R_xlen_t n = text_length(x);
    SEXP out = PROTECT(Rf_allocVector(STRSXP, n));
    for (R_xlen_t i = 0; i < n; ++i) SET_STRING_ELT(out, i, text_at(x, i));
    R_set_altrep_data2(x, out);
    UNPROTECT(1);
  }
  return DATAPTR(R_altrep_data2(x));
}
const void* text_or_null(SEXP x) { return R_altrep_data2(x) == R_NilValue ? nullptr : DATAPTR_RO(R_altrep_data2(x)); }

void let_go(SEXP held) {
  Mapping* mapping = static_cast<Mapping*>(R_ExternalPtrAddr(held));
  if (!mapping) return;
  R_ClearExternalPtr(held);
#ifndef _WIN32
  munmap(mapping->at, mapping->size);
#endif
  if (mapping->warm) warm -= std::min(warm, mapping->size);
  mappings().erase(mapping);
  delete mapping;
}

// R's types, by their names.
unsigned type_named(const std::string& type) { return type == "raw" ? RAWSXP : type == "integer" ? INTSXP : REALSXP; }
size_t bytes_each(unsigned type) { return type == RAWSXP ? 1 : type == INTSXP ? sizeof(int) : sizeof(double); }
R_altrep_class_t class_for(unsigned type) { return type == RAWSXP ? byte_class : type == INTSXP ? whole_class : number_class; }

SEXP mapped_vector(void* at, size_t size, unsigned type) {
  Mapping* mapping = new Mapping{at, size, false};
  mappings().insert(mapping);
  SEXP held = PROTECT(R_MakeExternalPtr(mapping, R_NilValue, R_NilValue));
  R_RegisterCFinalizerEx(held, let_go, FALSE);
  SEXP out = R_new_altrep(class_for(type), held, R_NilValue);
  UNPROTECT(1);
  return out;
}

SEXP read_plain(const std::string& path, unsigned type, R_xlen_t n) {
  SEXP out = PROTECT(Rf_allocVector(type, n));
  const size_t size = n * bytes_each(type);
  std::FILE* file = std::fopen(path.c_str(), "rb");
  const bool sound = file && (size == 0 || std::fread(DATAPTR(out), 1, size, file) == size);
  if (file) std::fclose(file);
  UNPROTECT(1);
  return sound ? out : R_NilValue;
}

}

// Not to be written to, from now on.
void with_attributes(SEXP x, const List& attributes) {
  if (attributes.size() > 0) {
    CharacterVector names = attributes.names();
    for (R_xlen_t i = 0; i < attributes.size(); ++i) Rf_setAttrib(x, Rf_installChar(names[i]), attributes[i]);
  }
  MARK_NOT_MUTABLE(x);
}

// [[Rcpp::init]]
void begin_mapped(DllInfo* dll) {
  byte_class = R_make_altraw_class("mavik_byte", "mavik", dll);
  R_set_altrep_Length_method(byte_class, byte_length);
  R_set_altvec_Dataptr_method(byte_class, data_at);
  R_set_altvec_Dataptr_or_null_method(byte_class, data_or_null);
  R_set_altraw_Elt_method(byte_class, byte_at);
  whole_class = R_make_altinteger_class("mavik_whole", "mavik", dll);
  R_set_altrep_Length_method(whole_class, whole_length);
  R_set_altvec_Dataptr_method(whole_class, data_at);
  R_set_altvec_Dataptr_or_null_method(whole_class, data_or_null);
  R_set_altvec_Extract_subset_method(whole_class, whole_subset);
  R_set_altinteger_Elt_method(whole_class, whole_at);
  number_class = R_make_altreal_class("mavik_number", "mavik", dll);
  R_set_altrep_Length_method(number_class, number_length);
  R_set_altvec_Dataptr_method(number_class, data_at);
  R_set_altvec_Dataptr_or_null_method(number_class, data_or_null);
  R_set_altvec_Extract_subset_method(number_class, number_subset);
  R_set_altreal_Elt_method(number_class, number_at);
  text_class = R_make_altstring_class("mavik_text", "mavik", dll);
  R_set_altrep_Length_method(text_class, text_length);
  R_set_altvec_Dataptr_method(text_class, text_data);
  R_set_altvec_Dataptr_or_null_method(text_class, text_or_null);
  R_set_altstring_Elt_method(text_class, text_at);
}

// The bytes of a vector (raw, integers or doubles) into a file. Returns what went wrong, "" if nothing.

// [[Rcpp::export]]
std::string store_values(SEXP values, std::string path) {
  std::FILE* file = std::fopen(path.c_str(), "wb");
  if (!file) return std::strerror(errno);
  std::string problem;
  const size_t size = bytes_each(TYPEOF(values)) * (size_t) Rf_xlength(values);
  const void* from = DATAPTR_RO(values);
  if (size > 0 && std::fwrite(from, 1, size, file) != size) problem = std::strerror(errno);
  if (std::fclose(file) != 0 && problem.empty()) problem = std::strerror(errno);
  return problem;
}

// `n` elements of a type ("raw", "integer", "double") of a file as a vector; NULL where they
// are not there. The file may be removed at once: what is mapped stays.

// [[Rcpp::export]]
SEXP map_values(std::string path, std::string type, double n, List attributes) {
  const unsigned of = type_named(type);
  const size_t size = (size_t) n * bytes_each(of);
#ifndef _WIN32
  if (size > 0) {
    const int file = open(path.c_str(), O_RDONLY);
    if (file < 0) return R_NilValue;
    const off_t there = lseek(file, 0, SEEK_END);
    void* at = there == (off_t) size ? mmap(nullptr, size, PROT_READ | PROT_WRITE, MAP_PRIVATE | MAP_NORESERVE, file, 0) : MAP_FAILED;
    close(file);
    if (at == MAP_FAILED) return R_NilValue;
    SEXP out = PROTECT(mapped_vector(at, size, of));
    with_attributes(out, attributes);
    UNPROTECT(1);
    return out;
  }
#endif
  SEXP out = PROTECT(read_plain(path, of, (R_xlen_t) n));
  if (out != R_NilValue) with_attributes(out, attributes);
  UNPROTECT(1);
  return out;
}

SEXP map_fresh(const std::string& folder, unsigned type, R_xlen_t n, void** at) {
#if !defined(_WIN32) && !defined(__APPLE__)
  const size_t size = (size_t) n * bytes_each(type);
  if (size == 0) return R_NilValue;
  std::string path = folder + "/looked-XXXXXX";
  const int file = mkstemp(&path[0]);
  if (file < 0) return R_NilValue;
  unlink(path.c_str());
  // All of its room at once: a disk that fills up later would end the process.
  void* there = posix_fallocate(file, 0, (off_t) size) == 0 ? mmap(nullptr, size, PROT_READ | PROT_WRITE, MAP_SHARED, file, 0) : MAP_FAILED;
  close(file);
  if (there == MAP_FAILED) return R_NilValue;
  *at = there;
  SEXP out = PROTECT(mapped_vector(there, size, type));
  MARK_NOT_MUTABLE(out);
  UNPROTECT(1);
  return out;
#else
  return R_NilValue;
#endif
}

// Texts as places (from 1, `NA` for a gap) among the distinct ones.

// [[Rcpp::export]]
SEXP listed_texts(SEXP places, SEXP known) {
  SEXP both = PROTECT(Rf_allocVector(VECSXP, 2));
  SET_VECTOR_ELT(both, 0, places);
  SET_VECTOR_ELT(both, 1, known);
  MARK_NOT_MUTABLE(places);
  MARK_NOT_MUTABLE(known);
  SEXP out = PROTECT(R_new_altrep(text_class, both, R_NilValue));
  MARK_NOT_MUTABLE(out);
  UNPROTECT(2);
  return out;
}

// Such texts as their places and the distinct ones; NULL of any other vector.

// [[Rcpp::export]]
SEXP listed_parts(SEXP texts) {
  if (!ALTREP(texts) || TYPEOF(texts) != STRSXP || !R_altrep_inherits(texts, text_class)) return R_NilValue;
  return List::create(_["index"] = places_of(texts), _["known"] = known_of(texts));
}

// All such vectors leave memory, also those whose addresses were taken. How many there are.

// [[Rcpp::export]]
int rest_mapped() {
  for (Mapping* mapping : mappings()) mapping->warm = true;
  rest_all_but(nullptr);
  return (int) mappings().size();
}

// Whether a vector lies in a file, or what it is looked up by does.

// [[Rcpp::export]]
bool is_mapped(SEXP x) {
  if (!ALTREP(x)) return false;
  if (rests_on(x) != R_NilValue) return is_mapped(rests_on(x));
  if (TYPEOF(x) == RAWSXP) return R_altrep_inherits(x, byte_class);
  if (R_altrep_inherits(x, text_class)) return is_mapped(places_of(x));
  return R_altrep_inherits(x, whole_class) || R_altrep_inherits(x, number_class);
}

// The same file as a vector with other attributes.

// [[Rcpp::export]]
SEXP mapped_as(SEXP x, List attributes) {
  if (rests_on(x) != R_NilValue) x = rests_on(x);
  SEXP out = PROTECT(R_new_altrep(TYPEOF(x) == INTSXP ? whole_class : number_class, R_altrep_data1(x), R_NilValue));
  with_attributes(out, attributes);
  UNPROTECT(1);
  return out;
}
