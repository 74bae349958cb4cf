// Eight numbers at a time (AVX2), with the compiler's vector types for arithmetic.
#pragma once
#include <immintrin.h>

#include <cstdint>
#include <cstring>

namespace pour {

/// The instruction set that Embree may use. Wider ones would give other bits on other machines.
inline constexpr const char* ray_instructions = "isa=avx2";

typedef float v8 __attribute__((vector_size(32)));
typedef double v8d __attribute__((vector_size(64)));
typedef int32_t v8i __attribute__((vector_size(32)));

inline v8 load(const float* p) {
  v8 v;
  std::memcpy(&v, p, sizeof v);
  return v;
}
inline v8d load(const double* p) {
  v8d v;
  std::memcpy(&v, p, sizeof v);
  return v;
}
// Intrinsics, because the compiler widens bytes one by one.
inline v8 load(const uint8_t* p) {
  return v8(_mm256_cvtepi32_ps(_mm256_cvtepu8_epi32(_mm_loadl_epi64(reinterpret_cast<const __m128i*>(p)))));
}
inline void store(float* p, v8 v) { std::memcpy(p, &v, sizeof v); }
inline void store(double* p, v8d v) { std::memcpy(p, &v, sizeof v); }
/// Stores the first `count` lanes.
inline void store_first(float* p, v8 v, int count) {
  const v8i lane{0, 1, 2, 3, 4, 5, 6, 7};
  _mm256_maskstore_ps(p, __m256i(lane < count), __m256(v));
}
inline v8 splat(float s) { return v8{s, s, s, s, s, s, s, s}; }
inline v8d widen(v8 v) { return __builtin_convertvector(v, v8d); }
// Half at a time: eight doubles are two registers, which compilers would move through memory.
typedef double v4d __attribute__((vector_size(32)));
inline v4d load4(const double* p) { return v4d(_mm256_loadu_pd(p)); }
inline void store(double* p, v4d v) { _mm256_storeu_pd(p, __m256d(v)); }
inline v4d widened_half(v8 v, int half) {
  return v4d(_mm256_cvtps_pd(half ? _mm256_extractf128_ps(__m256(v), 1) : _mm256_castps256_ps128(__m256(v))));
}
inline v8 narrowed(v4d low, v4d high) {
  return v8(_mm256_set_m128(_mm256_cvtpd_ps(__m256d(high)), _mm256_cvtpd_ps(__m256d(low))));
}
inline v8 narrow(v8d v) { return __builtin_convertvector(v, v8); }
/// Fused a · b + c.
inline v8 fused(v8 a, v8 b, v8 c) { return v8(_mm256_fmadd_ps(__m256(a), __m256(b), __m256(c))); }
inline double sum(v8d v) { return ((v[0] + v[4]) + (v[1] + v[5])) + ((v[2] + v[6]) + (v[3] + v[7])); }

/// `yes` where `which` is all ones, `no` where it is zero.
inline v8 choose(v8i which, v8 yes, v8 no) { return v8((which & v8i(yes)) | (~which & v8i(no))); }
inline v8 vmin(v8 a, v8 b) { return v8(_mm256_min_ps(__m256(a), __m256(b))); }
inline v8 vmax(v8 a, v8 b) { return v8(_mm256_max_ps(__m256(a), __m256(b))); }
inline v8 vfloor(v8 a) { return v8(_mm256_floor_ps(__m256(a))); }
inline v8 vsqrt(v8 a) { return v8(_mm256_sqrt_ps(__m256(a))); }
inline v8 gather(const float* from, v8i at) { return v8(_mm256_i32gather_ps(from, __m256i(at), 4)); }

/// Whether a lane is set, of a mask that is all ones or zero in each.
inline bool any(v8i mask) { return !_mm256_testz_si256(__m256i(mask), __m256i(mask)); }

/// [last of `left`, first seven of `row`]: the values at x - 1.
inline v8 from_left(v8 left, v8 row) {
  return __builtin_shufflevector(left, row, 7, 8, 9, 10, 11, 12, 13, 14);
}
/// [last seven of `row`, first of `right`]: the values at x + 1.
inline v8 from_right(v8 row, v8 right) { return __builtin_shufflevector(row, right, 1, 2, 3, 4, 5, 6, 7, 8); }

}  // namespace pour
