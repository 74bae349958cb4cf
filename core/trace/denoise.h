// Takes the grain out of a traced picture and leaves its edges.
#pragma once
#include "picture/image.h"

namespace pour {

/// What a picture is judged by: two halves of its paths, and what is met first in each pixel, row-major.
struct Grainy {
  int width = 0, height = 0;
  std::vector<Vec3f> half[2];   // means
  std::vector<Vec3f> variance;  // of the mean of both
  struct Feature {
    Vec3f color, normal;
    float depth = 0;                                                    // m
    float color_variance = 0, normal_variance = 0, depth_variance = 0;  // of the means
  };
  std::vector<Feature> features;  // of the first surface; zero where nothing is met
};

/// Method: non-local means over patches (Rousselle, Knaus & Zwicker 2012), where features say more than
/// colours by those (Rousselle, Manzi & Zwicker 2013, "Robust denoising using feature and color
/// information"), with the variances of pixels and a distance that both halves agree on; light and colour of
/// what is lit are filtered apart. Same bits at any number of threads.
Image denoised(const Grainy&);
/// Others of the same size, by the same weights: what adds up to the picture before does so after.
std::vector<Image> denoised_alike(const Grainy&, std::vector<std::vector<Vec3f>> pictures);

}  // namespace pour
