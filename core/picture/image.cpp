#include "picture/image.h"

#include <OpenImageIO/filesystem.h>
#include <OpenImageIO/imageio.h>

#include <cmath>
#include <cstring>

#include "base/error.h"
#include "base/file.h"
#include "base/parallel.h"
#include "base/srgb.h"

namespace pour {

namespace {
constexpr float grey = 0.18f;  // middle grey, which contrast leaves as it is
}

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
        if (image.contrast != 1) v = grey * std::pow(v / grey, image.contrast);
        if (v > 0.8f) v = 0.8f + 0.2f * (1 - std::exp(-(v - 0.8f) / 0.2f));
        out[i] = uint8_t(std::clamp(int(std::floor(to_srgb(v) * 255 + 0.5f + dither)), 0, 255));
      }
    }
  });
  return out;
}

namespace {

/// Blurs along rows or, transposed, along columns. Repeats the border.
Image blurred(const Image& from, float sigma, bool columns) {
  const int reach = int(std::ceil(2.5f * sigma));
  std::vector<float> weight(size_t(reach) + 1);
  float sum = 0;
  for (int i = 0; i <= reach; ++i) {
    weight[size_t(i)] = std::exp(-0.5f * float(i * i) / (sigma * sigma));
    sum += (i ? 2 : 1) * weight[size_t(i)];
  }
  Image out = from;
  parallel_for(size_t(from.height), [&](size_t row) {
    const int y = int(row);
    for (int x = 0; x < from.width; ++x) {
      Vec3f v{};
      for (int i = -reach; i <= reach; ++i)
        v += (columns ? from.at(x, std::clamp(y + i, 0, from.height - 1))
                      : from.at(std::clamp(x + i, 0, from.width - 1), y)) *
             weight[size_t(std::abs(i))];
      for (int c = 0; c < 3; ++c)
        out.rgb[3 * (row * size_t(from.width) + size_t(x)) + size_t(c)] = v[c] / sum;
    }
  });
  return out;
}

}  // namespace

void add_halo(Image& image, float amount) {
  if (amount <= 0 || image.rgb.empty()) return;
  const int step = std::max(1, image.height / halo_rows);
  Image small{(image.width + step - 1) / step, (image.height + step - 1) / step, {}};
  small.rgb.resize(3 * size_t(small.width) * size_t(small.height));
  parallel_for(size_t(small.height), [&](size_t row) {
    for (int x = 0; x < small.width; ++x) {
      Vec3f sum{};
      for (int j = 0; j < step; ++j)
        for (int i = 0; i < step; ++i)
          sum += image.at(std::min(x * step + i, image.width - 1),
                          std::min(int(row) * step + j, image.height - 1));
      for (int c = 0; c < 3; ++c)
        small.rgb[3 * (row * size_t(small.width) + size_t(x)) + size_t(c)] = sum[c] / float(step * step);
    }
  });
  // A row of the small picture is this many of the nominal ones.
  const float rows = float(image.height) / float(step) / halo_rows;
  const float second = std::sqrt(halo_width[1] * halo_width[1] - halo_width[0] * halo_width[0]);
  const Image near = blurred(blurred(small, halo_width[0] * rows, false), halo_width[0] * rows, true);
  const Image far = blurred(blurred(near, second * rows, false), second * rows, true);
  parallel_for(size_t(image.height), [&](size_t row) {
    for (int x = 0; x < image.width; ++x) {
      const float u = (float(x) + 0.5f) / float(step) - 0.5f, v = (float(row) + 0.5f) / float(step) - 0.5f;
      const int x0 = int(std::floor(u)), y0 = int(std::floor(v));
      Vec3f spread{};
      for (int k = 0; k < 4; ++k) {
        const int xx = std::clamp(x0 + (k & 1), 0, small.width - 1),
                  yy = std::clamp(y0 + (k >> 1), 0, small.height - 1);
        const float w =
            ((k & 1) ? u - float(x0) : 1 - u + float(x0)) * ((k >> 1) ? v - float(y0) : 1 - v + float(y0));
        spread += (near.at(xx, yy) * halo_share[0] + far.at(xx, yy) * halo_share[1]) * w;
      }
      for (int c = 0; c < 3; ++c) {
        float& value = image.rgb[3 * (row * size_t(image.width) + size_t(x)) + size_t(c)];
        value += amount * (spread[c] - value);
      }
    }
  });
}

namespace {

/// Four bytes a pixel; colours are those of what covers, as PNG has them.
std::vector<uint8_t> bytes_with_alpha(Image image) {
  const std::vector<float> alpha = std::move(image.alpha);
  for (size_t i = 0; i < alpha.size(); ++i)
    for (size_t c = 0; c < 3; ++c) image.rgb[3 * i + c] /= std::max(alpha[i], 1e-4f);
  const std::vector<uint8_t> colors = display_bytes(image);
  std::vector<uint8_t> out;
  for (size_t i = 0; i < alpha.size(); ++i) {
    out.insert(out.end(), &colors[3 * i], &colors[3 * i] + 3);
    out.push_back(uint8_t(std::lround(std::clamp(alpha[i], 0.f, 1.f) * 255)));
  }
  return out;
}

std::vector<unsigned char> png_bytes(const Image& image) {
  const std::vector<uint8_t> bytes = image.alpha.empty() ? display_bytes(image) : bytes_with_alpha(image);
  const int channels = image.alpha.empty() ? 3 : 4;
  std::vector<unsigned char> out;
  OIIO::Filesystem::IOVecOutput memory(out);
  const auto writer = OIIO::ImageOutput::create("picture.png", &memory);
  OIIO::ImageSpec spec(image.width, image.height, channels, OIIO::TypeDesc::UINT8);
  spec.attribute("oiio:ColorSpace", "sRGB");
  if (channels == 4) spec.alpha_channel = 3, spec.attribute("oiio:UnassociatedAlpha", 1);
  if (!writer || !writer->open("picture.png", spec) ||
      !writer->write_image(OIIO::TypeDesc::UINT8, bytes.data()) || !writer->close())
    throw machine_fault("Pictures", "can't be made as PNG here.", "Install OpenImageIO anew.");
  return out;
}

}  // namespace

void write_png(const Image& image, const std::filesystem::path& file) {
  // Made in memory first: the library does not notice a full disk.
  const auto bytes = png_bytes(image);
  write_whole(file, {reinterpret_cast<const char*>(bytes.data()), bytes.size()});
}

}  // namespace pour
