#include "base/base64.h"

#include <array>
#include <cstdint>

namespace pour {
namespace {
constexpr char letters_of_64[] = "ABCDEFGHIJKLMNOPQRSTUVWXYZabcdefghijklmnopqrstuvwxyz0123456789+/";
}

std::string to_base64(const std::string& bytes) {
  std::string out;
  out.reserve((bytes.size() + 2) / 3 * 4);
  for (size_t i = 0; i < bytes.size(); i += 3) {
    uint32_t v = 0;
    for (size_t k = 0; k < 3; ++k)
      v = v << 8 | (i + k < bytes.size() ? static_cast<unsigned char>(bytes[i + k]) : 0);
    for (size_t k = 0; k < 4; ++k) out += i + k > bytes.size() ? '=' : letters_of_64[v >> (18 - 6 * k) & 63];
  }
  return out;
}

bool from_base64(const std::string& letters, std::string& bytes) {
  static const auto value = [] {
    std::array<int8_t, 256> v;
    v.fill(-1);
    for (int i = 0; i < 64; ++i) v[static_cast<unsigned char>(letters_of_64[i])] = int8_t(i);
    return v;
  }();
  if (letters.size() % 4) return false;
  size_t padding = 0;
  while (padding < 2 && padding < letters.size() && letters[letters.size() - 1 - padding] == '=') ++padding;
  bytes.clear();
  bytes.reserve(letters.size() / 4 * 3);
  for (size_t i = 0; i < letters.size(); i += 4) {
    uint32_t v = 0;
    for (size_t k = 0; k < 4; ++k) {
      const bool pad = i + k >= letters.size() - padding;
      const int one = pad ? 0 : value[static_cast<unsigned char>(letters[i + k])];
      if (one < 0) return false;
      v = v << 6 | uint32_t(one);
    }
    for (size_t k = 0; k < 3; ++k) bytes += char(v >> (16 - 8 * k) & 255);
  }
  bytes.resize(bytes.size() - padding);
  return true;
}

}  // namespace pour
