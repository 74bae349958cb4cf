// Pictures in linear light and their conversion for display.
#pragma once
#include <cstdint>
#include <vector>

#include "base/vec.h"

namespace pour {

/// Linear Rec. 709, rows from the top, three floats a pixel.
struct Image {
  int width = 0, height = 0;
  std::vector<float> rgb;
  std::vector<float> alpha{};  // 0 to 1, rgb is premultiplied; empty: opaque
  float contrast = 1;          // for display, around middle grey (0.18)
  Vec3f at(int x, int y) const {
    const float* p = &rgb[3 * (size_t(y) * size_t(width) + size_t(x))];
    return {p[0], p[1], p[2]};
  }
};

/// Eight bits a channel in sRGB (IEC 61966-2-1), with contrast, highlights rolled off above 0.8, and a fixed
/// dither against banding. Three bytes a pixel, rows from the top.
std::vector<uint8_t> display_bytes(const Image&);

/// Four bytes a pixel, with straight alpha.
std::vector<uint8_t> display_bytes_with_alpha(const Image&);
/// In sixteen bits without dither; four channels if there is alpha, straight.
std::vector<uint16_t> display_words(const Image&);
/// A picture converted for display, in sixteen bits; three or four channels a pixel.
struct Words {
  int width = 0, height = 0;
  bool alpha = false;
  std::vector<uint16_t> values;
};
inline Words words_of(const Image& image) {
  return {image.width, image.height, !image.alpha.empty(), display_words(image)};
}
/// Converts to eight bits, dithered as in display_bytes().
std::vector<uint8_t> bytes_of(const Words&);

/// Lens glare: the share `amount` of every pixel's light spreads into two round spots. Light is lost only
/// beyond the borders.
void add_halo(Image&, float amount);
/// Rows of the picture on which the spots are computed, their standard deviations in rows, and their shares.
constexpr int halo_rows = 160;
constexpr float halo_width[2] = {2.5f, 10};
constexpr float halo_share[2] = {0.6f, 0.4f};

}  // namespace pour
