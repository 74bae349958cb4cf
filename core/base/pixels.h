// Pictures read into a shot: labels, backdrops, rooms.
#pragma once
#include <filesystem>
#include <memory>
#include <string>
#include <string_view>
#include <vector>

#include "base/vec.h"

namespace pour {

/// Premultiplied light, and alpha from 0 to 1.
struct Paint {
  float rgba[4];
  Vec3f over(const Vec3f& under) const { return under * (1 - rgba[3]) + Vec3f{rgba[0], rgba[1], rgba[2]}; }
};

/// The fixed date that delivered pictures carry where their format needs one, so that files are the same
/// everywhere.
inline constexpr const char* no_time = "1970:01:01 00:00:00";

/// Clamps light to finite values from 0 to the largest half float, and counts what it changed.
inline float as_light(float v, size_t& mended) {
  constexpr float most = 65504;
  if (v >= 0 && v <= most) return v;
  ++mended;
  return v > most ? most : 0;
}

/// Four floats a pixel, rows from the top: premultiplied linear Rec. 709 light, and alpha from 0 to 1.
struct Pixels {
  int width = 0, height = 0;
  std::vector<float> rgba;
  size_t mended = 0;  // values of the file that as_light() changed
  const float* at(int x, int y) const { return &rgba[4 * (size_t(y) * size_t(width) + size_t(x))]; }
  /// Bilinear; u and v from 0 (left, top) to 1. Beyond the border it clamps, or wraps horizontally if
  /// `round`.
  void sample(float u, float v, bool round, float out[4]) const;
  /// As a texture: v upwards from the lower left, repeated.
  Paint texture(float u, float v) const;
};

/// Reads any file that OpenImageIO reads and packs its first picture for a shot: PNG for eight bits a
/// channel, otherwise OpenEXR of half floats, with no edge longer than `longest_kept`. Eight and sixteen bits
/// are taken as sRGB, floats as linear light through as_light(). Throws Fault (Blame::shot) if it is not a
/// picture, has no colours (depth alone), or is larger than `most_pixels`.
std::string read_picture(const std::filesystem::path&);
/// Unpacks read_picture()'s bytes; results are cached and shared. Throws Fault (Blame::shot).
std::shared_ptr<const Pixels> unpack_picture(const std::shared_ptr<const std::string>& bytes,
                                             const std::string& where);

/// Whether bytes are PNG or OpenEXR, as read_picture() packs them.
bool is_kept_kind(std::string_view bytes);

constexpr int longest_kept = 4096;
constexpr long long most_pixels = 200'000'000;

}  // namespace pour
