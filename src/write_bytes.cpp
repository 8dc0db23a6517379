#include <Rcpp/Lighter>
#include <cerrno>
#include <cstdio>
#include <cstring>
#ifdef _WIN32
#include <io.h>
#else
#include <fcntl.h>
#include <unistd.h>
#endif
using namespace Rcpp;

// A write that is checked to the end: what the system could not take to the disk
// is an error here, never a shorter file.

static std::string reason() { return std::strerror(errno); }

static bool reach_disk(std::FILE* file) {
#ifdef _WIN32
  return _commit(_fileno(file)) == 0;
#else
  // Some file systems have nothing to sync; that is no failed write.
  return fsync(fileno(file)) == 0 || errno == EINVAL || errno == ENOTSUP;
#endif
}

// [[Rcpp::export]]
std::string write_bytes(RawVector bytes, std::string path) {
  std::FILE* file = std::fopen(path.c_str(), "wb");
  if (!file) return reason();
  size_t size = bytes.size();
  std::string problem;
  if (size > 0 && std::fwrite(RAW(bytes), 1, size, file) != size) problem = reason();
  if (problem.empty() && std::fflush(file) != 0) problem = reason();
  if (problem.empty() && !reach_disk(file)) problem = reason();
  if (std::fclose(file) != 0 && problem.empty()) problem = reason();
  return problem;
}

// Brings what another writer wrote to the disk; "" if it is there.
// [[Rcpp::export]]
std::string sync_file(std::string path) {
  std::FILE* file = std::fopen(path.c_str(), "r+b");
  if (!file) return reason();
  std::string problem;
  if (!reach_disk(file)) problem = reason();
  if (std::fclose(file) != 0 && problem.empty()) problem = reason();
  return problem;
}

// The folder's own entries; nothing to do where a folder cannot be opened.
// [[Rcpp::export]]
void sync_folder(std::string path) {
#ifndef _WIN32
  int folder = open(path.c_str(), O_RDONLY);
  if (folder < 0) return;
  fsync(folder);
  close(folder);
#endif
}
