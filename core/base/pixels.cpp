#include "base/pixels.h"

#include <OpenImageIO/filesystem.h>
#include <OpenImageIO/imageio.h>

#include <algorithm>
#include <array>
#include <cmath>
#include <cstdlib>

#include "base/error.h"
#include "base/file.h"
#include "base/shelf.h"
#include "base/srgb.h"
#include "base/text.h"

namespace pour {
namespace {

Fault no_picture(const std::string& where, const std::string& why) {
  return shot_fault(where,
                    why.empty() ? "is no picture that could be read."
                                : filled("is no picture that could be read ({why}).", {{"why", why}}),
                    "Choose a PNG, JPEG, TIFF, HDR or EXR file.");
}

constexpr const char* mended_tag = "easy_pour:mended";

/// The channels of red, green and blue, the same one three times where there is just a brightness.
std::array<int, 3> colors_in(const OIIO::ImageSpec& spec, const std::string& where) {
  const auto named = [&](std::initializer_list<std::string_view> names) {
    for (int c = 0; c < spec.nchannels; ++c)
      for (const std::string_view name : names)
        if (spec.channelnames[size_t(c)] == name) return c;
    return -1;
  };
  const std::array<int, 3> rgb{named({"R", "r", "red"}), named({"G", "g", "green"}),
                               named({"B", "b", "blue"})};
  if (rgb[0] >= 0 && rgb[1] >= 0 && rgb[2] >= 0) return rgb;
  const int grey = named({"Y", "y", "I", "L"});
  if (grey < 0)
    throw no_picture(where, filled("it has no colours, only {found}", {{"found", spec.channelnames[0]}}));
  return {grey, grey, grey};
}

/// First picture of a reader as four linear floats a pixel.
Pixels pixels_of(OIIO::ImageInput& in, const std::string& where) {
  const OIIO::ImageSpec& spec = in.spec();
  if (spec.width < 1 || spec.height < 1 || spec.nchannels < 1) throw no_picture(where, "it is empty");
  if (1ll * spec.width * spec.height > most_pixels)
    throw shot_fault(where,
                     filled("is {width} × {height} pixels, more than are taken ({most} million).",
                            {{"width", std::to_string(spec.width)},
                             {"height", std::to_string(spec.height)},
                             {"most", std::to_string(most_pixels / 1'000'000)}}),
                     filled("Make it smaller first; {longest} pixels a side are kept.",
                            {{"longest", std::to_string(longest_kept)}}));
  const bool linear = spec.format.is_floating_point();
  const int all = spec.nchannels, alpha = spec.alpha_channel;
  const std::array<int, 3> color = colors_in(spec, where);
  // Rows are made smaller as they come, so that large ones never stand in memory whole.
  const int step = std::max(1, (std::max(spec.width, spec.height) + longest_kept - 1) / longest_kept);
  Pixels out{(spec.width + step - 1) / step, (spec.height + step - 1) / step, {}};
  out.mended = size_t(std::atoll(std::string(spec.get_string_attribute(mended_tag)).c_str()));
  out.rgba.assign(4 * size_t(out.width) * size_t(out.height), 0.f);
  std::vector<float> row(size_t(spec.width) * size_t(all)), weight(size_t(out.width));
  const bool apart = spec.get_int_attribute("oiio:UnassociatedAlpha", 0);
  for (int y = 0; y < spec.height; ++y) {
    if (!in.read_scanline(spec.y + y, 0, OIIO::TypeDesc::FLOAT, row.data()))
      throw no_picture(where, in.geterror());
    for (int x = 0; x < spec.width; ++x) {
      const float* p = &row[size_t(x) * size_t(all)];
      const float a = alpha >= 0 ? std::min(as_light(p[alpha], out.mended), 1.f) : 1.f;
      float* to = &out.rgba[4 * (size_t(y / step) * size_t(out.width) + size_t(x / step))];
      for (int c = 0; c < 3; ++c) {
        float v = as_light(p[color[size_t(c)]], out.mended);
        if (!linear) {  // given times alpha unless it says otherwise; the curve is for what is seen
          if (alpha >= 0 && !apart && a > 0) v /= a;
          v = from_srgb(std::min(v, 1.f)) * a;
        } else if (apart) {
          v *= a;
        }
        to[c] += v;
      }
      to[3] += a;
    }
  }
  for (int y = 0; y < out.height; ++y)
    for (int x = 0; x < out.width; ++x) {
      const int w = std::min(step, spec.width - x * step), h = std::min(step, spec.height - y * step);
      float* to = &out.rgba[4 * (size_t(y) * size_t(out.width) + size_t(x))];
      for (int c = 0; c < 4; ++c) to[c] /= float(w * h);
    }
  return out;
}

std::string packed(const Pixels& p, bool eight_bits, const std::string& where) {
  std::vector<unsigned char> bytes;
  OIIO::Filesystem::IOVecOutput memory(bytes);
  const char* name = eight_bits ? "picture.png" : "picture.exr";
  const auto writer = OIIO::ImageOutput::create(name, &memory);
  OIIO::ImageSpec spec(p.width, p.height, 4, eight_bits ? OIIO::TypeDesc::UINT8 : OIIO::TypeDesc::HALF);
  spec.alpha_channel = 3;
  spec.attribute("compression", "zip");
  if (!eight_bits) spec.attribute("DateTime", no_time);
  if (p.mended) spec.attribute(mended_tag, std::to_string(p.mended));
  std::vector<float> values = p.rgba;
  if (eight_bits) {
    spec.attribute("oiio:ColorSpace", "sRGB"), spec.attribute("oiio:UnassociatedAlpha", 1);
    for (size_t i = 0; i < values.size(); i += 4)
      for (size_t c = 0; c < 3; ++c)
        values[i + c] = float(to_srgb(double(values[i + 3] > 0 ? values[i + c] / values[i + 3] : 0.f)));
  } else {
    size_t counted = 0;
    for (size_t i = 0; i < values.size(); ++i)
      if (i % 4 != 3) values[i] = as_light(values[i], counted);
  }
  if (!writer || !writer->open(name, spec) || !writer->write_image(OIIO::TypeDesc::FLOAT, values.data()) ||
      !writer->close())
    throw machine_fault(where, "can't be packed here.", "Install OpenImageIO anew.");
  return {reinterpret_cast<const char*>(bytes.data()), bytes.size()};
}

/// By the first bytes, so that the right reader is taken.
const char* file_name_for(const std::string& bytes) {
  constexpr std::pair<std::string_view, const char*> kinds[] = {
      {"\x89PNG", "picture.png"}, {"\xff\xd8", "picture.jpg"}, {"BM", "picture.bmp"},
      {"II*", "picture.tif"},     {"MM", "picture.tif"},       {"RIFF", "picture.webp"}};
  for (const auto& [start, name] : kinds)
    if (bytes.starts_with(start)) return name;
  return bytes.starts_with("\x76\x2f\x31\x01") ? "picture.exr" : "picture.tga";
}

}  // namespace

bool is_kept_kind(std::string_view bytes) {
  const std::string_view name = file_name_for(std::string(bytes.substr(0, 8)));
  return name.ends_with(".png") || name.ends_with(".exr");
}

void Pixels::sample(float u, float v, bool round, float out[4]) const {
  const float x = u * float(width) - 0.5f, y = v * float(height) - 0.5f;
  const float fx = x - std::floor(x), fy = y - std::floor(y);
  const int x0 = int(std::floor(x)), y0 = int(std::floor(y));
  for (int c = 0; c < 4; ++c) out[c] = 0;
  for (int k = 0; k < 4; ++k) {
    int xx = x0 + (k & 1);
    const int yy = std::clamp(y0 + (k >> 1), 0, height - 1);
    xx = round ? ((xx % width) + width) % width : std::clamp(xx, 0, width - 1);
    const float w = ((k & 1) ? fx : 1 - fx) * ((k >> 1) ? fy : 1 - fy);
    for (int c = 0; c < 4; ++c) out[c] += w * at(xx, yy)[c];
  }
}

Paint Pixels::texture(float u, float v) const {
  Paint out;
  sample(u - std::floor(u), 1 - (v - std::floor(v)), false, out.rgba);
  return out;
}

std::string read_picture(const std::filesystem::path& file) {
  const std::string where = file.string();
  std::error_code error;
  if (!std::filesystem::is_regular_file(file, error)) {
    const Fault f = file_fault(file, "can't be read", ENOENT);
    throw shot_fault(f.where, f.problem, "Choose a picture that is there.");
  }
  const auto in = OIIO::ImageInput::open(where);
  if (!in) throw no_picture(where, OIIO::geterror());
  return packed(pixels_of(*in, where), in->spec().format == OIIO::TypeDesc::UINT8, where);
}

std::shared_ptr<const Pixels> unpack_picture(const std::shared_ptr<const std::string>& bytes,
                                             const std::string& where) {
  if (!bytes || bytes->empty())
    throw shot_fault(where, "has no picture.", "Choose a PNG, JPEG, TIFF, HDR or EXR file.");
  static Shelf<std::shared_ptr<const std::string>, Pixels> known(12);
  return known.get(bytes, [&] {
    OIIO::Filesystem::IOMemReader memory(const_cast<char*>(bytes->data()), bytes->size());
    const char* name = file_name_for(*bytes);
    const auto in = OIIO::ImageInput::open(name, nullptr, &memory);
    if (!in) throw no_picture(where, OIIO::geterror());
    return pixels_of(*in, where);
  });
}

}  // namespace pour
