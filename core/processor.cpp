// Says at the start of a program that its processor can't run it, in place of a crash at the first of its
// instructions. Compiled for any processor, and linked into each program by itself.
#include <unistd.h>
#include <cstdlib>

namespace {

// Before anything else of the program is set up: that may use AVX2 already.
__attribute__((constructor(101))) void check_processor() {
  __builtin_cpu_init();
  if (__builtin_cpu_supports("avx2") && __builtin_cpu_supports("fma")) return;
  constexpr char words[] =
      "Easy Pour needs a processor with AVX2 and FMA (most since 2015), which this one has not. Use another "
      "machine.\n";
  (void)!write(2, words, sizeof words - 1);
  _exit(3);
}

}  // namespace
