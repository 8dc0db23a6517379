#include <Rcpp/Lighter>
#ifndef _WIN32
#include <sys/mman.h>
#endif
#include <atomic>
#include <chrono>
#include <string>
#include <thread>
#include "mapped.h"
using namespace Rcpp;

#ifndef _WIN32
namespace {

// Bytes that are read once, from front to back, leave this process's memory as it goes on:
// a file of many gigabytes would else be counted as its own. What is looked at again comes back.
class Leaving {
  std::atomic<bool> over{false};
  std::thread thread;

 public:
  Leaving(void* at, size_t size) : thread([this, at, size] {
    while (!over) {
      std::this_thread::sleep_for(std::chrono::milliseconds(10));
      madvise(at, size, MADV_DONTNEED);
    }
  }) {}
  ~Leaving() {
    over = true;
    thread.join();
  }
};

}
#endif

// What `use` makes of all bytes of a file, which it gets as a raw vector that lies in the file;
// NULL where the file is not there in that size, or files cannot be mapped.

// [[Rcpp::export]]
SEXP pass_over(std::string path, double size, Function use) {
#ifndef _WIN32
  if (size < 1) return R_NilValue;
  Shield<SEXP> bytes(map_values(path, "raw", size, List()));
  if (bytes == R_NilValue) return R_NilValue;
  Leaving leaving(DATAPTR(bytes), (size_t) size);
  return use(bytes);
#else
  return R_NilValue;
#endif
}
