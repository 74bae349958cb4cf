// Pictures that are brought in: labels, backdrops, rooms.
#pragma once
#include <filesystem>
#include <memory>
#include <string>
#include <string_view>
#include <vector>

#include "base/vec.h"

namespace pour {

/// Light times alpha, and alpha, 0 to 1.
struct Paint {
  float rgba[4];
  Vec3f over(const Vec3f& under) const { return under * (1 - rgba[3]) + Vec3f{rgba[0], rgba[1], rgba[2]}; }
};

/// What pictures say of when they were made, as they have to: files are the same on every machine at any
/// time.
inline constexpr const char* no_time = "1970:01:01 00:00:00";

/// What light can be in a picture: finite, not negative, and no more than half floats hold. What is mended is
/// counted.
inline float as_light(float v, size_t& mended) {
  constexpr float most = 65504;
  if (v >= 0 && v <= most) return v;
  ++mended;
  return v > most ? most : 0;
}

/// Four floats a pixel, rows from the top: linear Rec. 709 light times alpha, and alpha, 0 to 1.
struct Pixels {
  int width = 0, height = 0;
  std::vector<float> rgba;
  size_t mended =
      0;  // values of its file that light can't have: negative or no number (0 instead), or endless
  const float* at(int x, int y) const { return &rgba[4 * (size_t(y) * size_t(width) + size_t(x))]; }
  /// Between the four nearest pixels; u and v from 0 (left, top) to 1. Beyond the border the nearest one, or
  /// from left to right where `round`.
  void sample(float u, float v, bool round, float out[4]) const;
  /// As textures have it: v upwards from the lower left, and the whole again and again.
  Paint texture(float u, float v) const;
};

/// Any file that OpenImageIO reads, as a shot keeps it: PNG where it has eight bits a colour, otherwise
/// OpenEXR of half floats; of its first picture, no edge longer than `longest_kept`. Colours of eight and
/// sixteen bits are taken as sRGB, floats as linear, mended by as_light(). Throws Fault (Blame::shot) for
/// what is no picture, has no colours (depth alone), or is larger than `most_pixels`.
std::string read_picture(const std::filesystem::path&);
/// The reverse; bytes that were unpacked before are kept and shared. Throws Fault (Blame::shot).
std::shared_ptr<const Pixels> unpack_picture(const std::shared_ptr<const std::string>& bytes,
                                             const std::string& where);

/// Whether bytes are of a kind that read_picture() makes.
bool is_kept_kind(std::string_view bytes);

constexpr int longest_kept = 4096;
constexpr long long most_pixels = 200'000'000;

}  // namespace pour
