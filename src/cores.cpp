#include <Rcpp/Lighter>
#include <algorithm>
#include <thread>
using namespace Rcpp;

// The cores that this process may use; at least one.
// [[Rcpp::export]]
int cores_here() {
  return std::max(1, (int) std::thread::hardware_concurrency());
}
