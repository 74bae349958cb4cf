// Denoises traced pictures and keeps their edges.
#pragma once
#include "picture/image.h"

namespace pour {

/// Input of the filter: two halves of the paths, and features of the first surface in each pixel, row-major.
struct Grainy {
  int width = 0, height = 0;
  std::vector<Vec3f> half[2];   // means
  std::vector<Vec3f> variance;  // of the mean of both
  struct Feature {
    Vec3f color, normal;
    float depth = 0;                                                    // m
    float color_variance = 0, normal_variance = 0, depth_variance = 0;  // of the means
  };
  std::vector<Feature> features;  // of the first surface; zero if nothing is hit
};

/// Method: non-local means over patches (Rousselle, Knaus & Zwicker 2012), combined with features (Rousselle,
/// Manzi & Zwicker 2013, "Robust denoising using feature and color information"), with pixel variances and
/// cross-filtered halves. Lighting and surface colour are filtered apart. Bit-equal at any thread count.
Image denoised(const Grainy&);
/// Filters other pictures of the same size with the same weights, so that passes still add up to the picture.
std::vector<Image> denoised_alike(const Grainy&, std::vector<std::vector<Vec3f>> pictures);

}  // namespace pour
