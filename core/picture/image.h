// Pictures in linear light, and as they are displayed.
#pragma once
#include <cstdint>
#include <vector>

#include "base/vec.h"

namespace pour {

/// Linear Rec. 709, rows from the top, three floats a pixel.
struct Image {
  int width = 0, height = 0;
  std::vector<float> rgb;
  std::vector<float> alpha{};  // 0 to 1, by which rgb is multiplied; empty: all is covered
  float contrast = 1;          // to be displayed with, around middle grey (0.18)
  Vec3f at(int x, int y) const {
    const float* p = &rgb[3 * (size_t(y) * size_t(width) + size_t(x))];
    return {p[0], p[1], p[2]};
  }
};

/// Eight bits a channel in sRGB (IEC 61966-2-1), with its contrast, highlights rolled off above 0.8, with a
/// fixed fine-grained dither against banding. Three bytes a pixel, rows from the top.
std::vector<uint8_t> display_bytes(const Image&);

/// Four bytes a pixel: colours of what covers, not multiplied by alpha.
std::vector<uint8_t> display_bytes_with_alpha(const Image&);
/// In sixteen bits, without dither; four a pixel, as above, where there is an alpha.
std::vector<uint16_t> display_words(const Image&);
/// A picture as it is displayed, in sixteen bits; three or four a pixel.
struct Words {
  int width = 0, height = 0;
  bool alpha = false;
  std::vector<uint16_t> values;
};
inline Words words_of(const Image& image) {
  return {image.width, image.height, !image.alpha.empty(), display_words(image)};
}
/// The same in eight bits, dithered as display_bytes() does.
std::vector<uint8_t> bytes_of(const Words&);

/// Light that the lens spreads around what is bright: the share `amount` of every pixel's light goes into
/// two round spots. Nothing is lost but at the borders, where the light falls beside the film.
void add_halo(Image&, float amount);
/// The spots are worked out on a picture with this many rows, on which they are so wide (standard
/// deviations, rows); shares of the two.
constexpr int halo_rows = 160;
constexpr float halo_width[2] = {2.5f, 10};
constexpr float halo_share[2] = {0.6f, 0.4f};

}  // namespace pour
