// Parallel loops whose results do not depend on the number of threads.
#pragma once
#include <tbb/blocked_range.h>
#include <tbb/global_control.h>
#include <tbb/parallel_for.h>

#include <cstddef>
#include <vector>

namespace pour {

/// f(i) for i in [0, n). Each i must write only its own data.
template <class F>
void parallel_for(size_t n, const F& f, size_t grain = 8) {
  tbb::parallel_for(tbb::blocked_range<size_t>(0, n, grain), [&](const tbb::blocked_range<size_t>& r) {
    for (size_t i = r.begin(); i != r.end(); ++i) f(i);
  });
}

/// Sum of f(i) over [0, n), always added in the order of i, so it has the same bits at any thread count.
/// T needs T{} and +=.
template <class T, class F>
T ordered_sum(size_t n, const F& f) {
  std::vector<T> part(n);
  parallel_for(n, [&](size_t i) { part[i] = f(i); });
  T sum{};
  for (const T& p : part) sum += p;
  return sum;
}

/// Limits the threads used while it lives.
class ThreadLimit {
 public:
  explicit ThreadLimit(int threads)
      : control_(tbb::global_control::max_allowed_parallelism, size_t(threads)) {}

 private:
  tbb::global_control control_;
};

}  // namespace pour
