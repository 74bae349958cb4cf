#include "picture/image.h"

#include <OpenImageIO/imageio.h>

#include <cmath>
#include <cstring>

#include "base/error.h"
#include "base/file.h"
#include "base/parallel.h"

namespace pour {

std::vector<uint8_t> display_bytes(const Image& image) {
  std::vector<uint8_t> out(image.rgb.size());
  parallel_for(size_t(image.height), [&](size_t y) {
    for (int x = 0; x < image.width; ++x) {
      uint32_t h = uint32_t(x) * 0x9e3779b1u ^ (uint32_t(y) * 0x85ebca77u + 0x2545f491u);
      h ^= h >> 15, h *= 0x2c1b3c6du, h ^= h >> 12;
      const float dither = float(h & 0xffff) / 65536 - 0.5f;
      for (int c = 0; c < 3; ++c) {
        const size_t i = 3 * (y * size_t(image.width) + size_t(x)) + size_t(c);
        float v = std::max(image.rgb[i], 0.f);
        if (v > 0.8f) v = 0.8f + 0.2f * (1 - std::exp(-(v - 0.8f) / 0.2f));
        v = v <= 0.0031308f ? 12.92f * v : 1.055f * std::pow(v, 1 / 2.4f) - 0.055f;
        out[i] = uint8_t(std::clamp(int(std::floor(v * 255 + 0.5f + dither)), 0, 255));
      }
    }
  });
  return out;
}

void write_png(const Image& image, const std::filesystem::path& file) {
  const std::vector<uint8_t> bytes = display_bytes(image);
  write_whole(file, [&](const std::filesystem::path& temporary) {
    auto out = OIIO::ImageOutput::create(temporary.string());
    OIIO::ImageSpec spec(image.width, image.height, 3, OIIO::TypeDesc::UINT8);
    spec.attribute("oiio:ColorSpace", "sRGB");
    if (!out || !out->open(temporary.string(), spec) ||
        !out->write_image(OIIO::TypeDesc::UINT8, bytes.data()) || !out->close())
      throw machine_fault(file.string(),
                          "could not be written: " + (out ? out->geterror() : OIIO::geterror()) + ".",
                          "Free some space or choose another folder.");
  });
}

}  // namespace pour
