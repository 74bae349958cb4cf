#include "picture/image_file.h"

#include <OpenImageIO/filesystem.h>
#include <OpenImageIO/imageio.h>

#include "base/error.h"
#include "base/file.h"
#include "base/text.h"

namespace pour {
namespace {

constexpr const char* inputs_tag = "easy_pour:inputs";
constexpr const char* samples_tag = "easy_pour:samples";
constexpr const char* parts_tag = "easy_pour:parts";
constexpr const char* sum_tag = "easy_pour:sum";  // of the values: torn files are read without a word

std::string sum_of(const Words& words) {
  return in_digits(checksum({reinterpret_cast<const char*>(words.values.data()), 2 * words.values.size()}));
}

using Encoded = std::vector<unsigned char>;

Encoded written(const char* format, OIIO::ImageSpec spec, const MadeFrom& from, OIIO::TypeDesc type,
                const void* values) {
  spec.attribute(inputs_tag, from.inputs), spec.attribute(samples_tag, std::to_string(from.samples));
  if (!from.parts.empty()) spec.attribute(parts_tag, from.parts);
  if (std::string_view(format) == "picture.exr") spec.attribute("DateTime", no_time);  // or it says its own
  // JPEG has no names for its texts.
  if (std::string_view(format) == "picture.jpg")
    spec.attribute("ImageDescription", from.inputs + " " + std::to_string(from.samples));
  Encoded out;
  OIIO::Filesystem::IOVecOutput memory(out);  // first, as the library does not notice a full disk
  const auto writer = OIIO::ImageOutput::create(format, &memory);
  if (!writer || !writer->open(format, spec) || !writer->write_image(type, values) || !writer->close())
    throw machine_fault("Pictures", filled("can't be made as {format} here.", {{"format", (format + 8)}}),
                        "Install OpenImageIO anew.");
  return out;
}

Encoded png_bytes(const Image& image, const MadeFrom& from) {
  const bool alpha = !image.alpha.empty();
  const std::vector<uint8_t> bytes = alpha ? display_bytes_with_alpha(image) : display_bytes(image);
  OIIO::ImageSpec spec(image.width, image.height, alpha ? 4 : 3, OIIO::TypeDesc::UINT8);
  spec.attribute("oiio:ColorSpace", "sRGB");
  if (alpha) spec.alpha_channel = 3, spec.attribute("oiio:UnassociatedAlpha", 1);
  return written("picture.png", spec, from, OIIO::TypeDesc::UINT8, bytes.data());
}

Encoded jpeg_bytes(const Image& image, const MadeFrom& from) {
  const std::vector<uint8_t> bytes = display_bytes(image);
  OIIO::ImageSpec spec(image.width, image.height, 3, OIIO::TypeDesc::UINT8);
  spec.attribute("oiio:ColorSpace", "sRGB"), spec.attribute("CompressionQuality", 95);
  return written("picture.jpg", spec, from, OIIO::TypeDesc::UINT8, bytes.data());
}

Encoded exr_bytes(const Image& image, const MadeFrom& from, const std::vector<Channels>& more,
                  size_t& mended) {
  OIIO::ImageSpec spec(image.width, image.height, 0, OIIO::TypeDesc::FLOAT);
  const auto add = [&](const std::string& name, bool half) {
    spec.channelnames.push_back(name);
    spec.channelformats.push_back(half ? OIIO::TypeDesc::HALF : OIIO::TypeDesc::FLOAT);
  };
  for (const char* c : {"R", "G", "B"}) add(c, true);
  if (!image.alpha.empty()) spec.alpha_channel = 3, add("A", true);
  for (const Channels& c : more)
    for (const std::string& n : c.names) add(c.name.empty() ? n : c.name + "." + n, c.half);
  spec.nchannels = int(spec.channelnames.size());
  spec.attribute("compression", "zip"), spec.attribute("oiio:ColorSpace", "Linear");
  std::vector<float> values;
  const size_t pixels = size_t(image.width) * size_t(image.height);
  values.reserve(pixels * size_t(spec.nchannels));
  for (size_t i = 0; i < pixels; ++i) {
    for (size_t c = 0; c < 3; ++c) values.push_back(as_light(image.rgb[3 * i + c], mended));
    if (!image.alpha.empty()) values.push_back(image.alpha[i]);
    for (const Channels& c : more)
      for (size_t k = 0; k < c.names.size(); ++k) {
        const float v = c.values[i * c.names.size() + k];
        values.push_back(c.light ? as_light(v, mended) : v);
      }
  }
  return written("picture.exr", spec, from, OIIO::TypeDesc::FLOAT, values.data());
}

}  // namespace

const char* suffix_of(Stills kind) {
  return kind == Stills::png ? ".png" : kind == Stills::jpeg ? ".jpg" : ".exr";
}

size_t write_image(const Image& image, const std::filesystem::path& file, Stills kind, const MadeFrom& from,
                   const std::vector<Channels>& more) {
  size_t mended = 0;
  const Encoded bytes = kind == Stills::png    ? png_bytes(image, from)
                        : kind == Stills::jpeg ? jpeg_bytes(image, from)
                                               : exr_bytes(image, from, more, mended);
  write_whole(file, {reinterpret_cast<const char*>(bytes.data()), bytes.size()});
  return mended;
}

void write_words(const Words& words, const std::filesystem::path& file, const MadeFrom& from) {
  OIIO::ImageSpec spec(words.width, words.height, words.alpha ? 4 : 3, OIIO::TypeDesc::UINT16);
  spec.attribute("oiio:ColorSpace", "sRGB"), spec.attribute("png:compressionLevel", 1);
  spec.attribute(sum_tag, sum_of(words));
  if (words.alpha) spec.alpha_channel = 3, spec.attribute("oiio:UnassociatedAlpha", 1);
  const Encoded bytes = written("picture.png", spec, from, OIIO::TypeDesc::UINT16, words.values.data());
  write_whole(file, {reinterpret_cast<const char*>(bytes.data()), bytes.size()});
}

bool read_words(const std::filesystem::path& file, const std::string& inputs, Words& out) try {
  std::error_code error;
  if (!std::filesystem::is_regular_file(file, error)) return false;
  OIIO::ImageSpec as_they_are;
  as_they_are.attribute("oiio:UnassociatedAlpha", 1);
  const auto in = OIIO::ImageInput::open(file.string(), &as_they_are);
  if (!in) {
    (void)OIIO::geterror();
    return false;
  }
  const OIIO::ImageSpec& spec = in->spec();
  if (std::string(spec.get_string_attribute(inputs_tag)) != inputs ||
      (spec.nchannels != 3 && spec.nchannels != 4))
    return false;
  out.width = spec.width, out.height = spec.height, out.alpha = spec.nchannels == 4;
  out.values.resize(size_t(spec.width) * size_t(spec.height) * size_t(spec.nchannels));
  return in->read_image(0, 0, 0, spec.nchannels, OIIO::TypeDesc::UINT16, out.values.data()) &&
         sum_of(out) == std::string(spec.get_string_attribute(sum_tag));
} catch (...) {  // it is none of ours
  return false;
}

MadeFrom made_from(const std::filesystem::path& file) {
  MadeFrom out;
  std::error_code error;
  if (!std::filesystem::is_regular_file(file, error)) return out;  // a pipe would be waited for
  try {
    const auto in = OIIO::ImageInput::open(file.string());
    if (!in) {
      (void)OIIO::geterror();
      return out;
    }
    const OIIO::ImageSpec& spec = in->spec();
    out.inputs = spec.get_string_attribute(inputs_tag),
    out.samples = std::atoi(std::string(spec.get_string_attribute(samples_tag)).c_str());
    out.parts = spec.get_string_attribute(parts_tag);
    if (out.inputs.empty() && std::string_view(in->format_name()) == "jpeg") {
      const std::string text = spec.get_string_attribute("ImageDescription");
      const size_t space = text.find(' ');
      if (space == 16) out.inputs = text.substr(0, space), out.samples = std::atoi(text.c_str() + space);
    }
  } catch (...) {  // it is none of ours
    out = {};
  }
  return out;
}

}  // namespace pour
