#include <Rcpp/Lighter>
#include <algorithm>
#include <vector>
using namespace Rcpp;

// What a universe does to a column's gaps. Reasons are their numbers, 0 where there is
// an answer; `truth` is the universe's, `filter_reason` why it is unknown. Outside, a
// blank was not asked and what else stands there is `against`, unless it is one of the
// `settled` reasons; where the universe is unknown a blank takes the filter's reason.

// [[Rcpp::export]]
List keep_universe(LogicalVector missing, IntegerVector reason, LogicalVector truth, IntegerVector filter_reason, int no_answer, int not_asked, int set_aside, IntegerVector settled) {
  const R_xlen_t n = truth.size();
  const bool plain = reason.size() == 0;
  IntegerVector out = no_init(n);
  std::vector<int> against, unsure;
  // asked_answered, asked_blank, outside_blank, outside_answered, unsure_answered, unsure_blank
  double skips[6] = {0, 0, 0, 0, 0, 0};
  for (R_xlen_t i = 0; i < n; ++i) {
    const int why = plain ? 0 : reason[i];
    const bool blank = why == no_answer, has = !missing[i];
    int now = why;
    if (truth[i] == NA_LOGICAL) {
      if (has) { ++skips[4]; unsure.push_back((int) i + 1); }
      if (blank) { ++skips[5]; now = filter_reason[i]; }
    } else if (truth[i]) {
      if (has) ++skips[0];
      if (blank) ++skips[1];
    } else if (blank) {
      ++skips[2];
      now = not_asked;
    } else if (std::find(settled.begin(), settled.end(), why) == settled.end()) {
      against.push_back((int) i + 1);
      now = set_aside;
    }
    out[i] = now;
  }
  skips[3] = (double) against.size();
  NumericVector counts(skips, skips + 6);
  counts.names() = CharacterVector::create("asked_answered", "asked_blank", "outside_blank", "outside_answered", "unsure_answered", "unsure_blank");
  return List::create(_["reason"] = out, _["against"] = IntegerVector(against.begin(), against.end()),
    _["unsure"] = IntegerVector(unsure.begin(), unsure.end()), _["skips"] = counts);
}
