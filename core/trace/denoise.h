// Takes the grain out of a traced picture and leaves its edges.
#pragma once
#include "picture/image.h"

namespace pour {

/// What a picture is judged by: two halves of its paths, and what is met first in each pixel, row-major.
struct Grainy {
  int width = 0, height = 0;
  std::vector<Vec3f> half[2];           // means
  std::vector<Vec3f> color, normal;     // of the first surface
  std::vector<float> depth;             // m; 0 where nothing is met
};

/// Method: non-local means with the weights of each half from the other one (Rousselle, Knaus & Zwicker 2012),
/// where features say more than colours by those (Rousselle, Manzi & Zwicker 2013, "Robust denoising using
/// feature and color information"); light and colour of what is lit are filtered apart. Same bits at any number
/// of threads.
Image denoised(const Grainy&);

}  // namespace pour
