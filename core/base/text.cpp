#include "base/text.h"

#include <algorithm>
#include <cctype>
#include <charconv>
#include <cstdio>

namespace pour {

std::string did_you_mean(const std::string& near, const std::string& otherwise) {
  return near.empty() ? otherwise : filled("Did you mean “{near}”?", {{"near", near}});
}

std::vector<std::string> split(const std::string& text, char at) {
  std::vector<std::string> out;
  for (size_t start = 0; start <= text.size();) {
    const size_t end = std::min(text.find(at, start), text.size());
    out.push_back(text.substr(start, end - start));
    start = end + 1;
  }
  return out;
}

std::string trimmed(std::string_view s) {
  const auto space = [](char c) { return std::isspace(static_cast<unsigned char>(c)); };
  while (!s.empty() && space(s.front())) s.remove_prefix(1);
  while (!s.empty() && space(s.back())) s.remove_suffix(1);
  return std::string(s);
}

std::string filled(std::string_view text,
                   std::initializer_list<std::pair<std::string_view, std::string>> places) {
  std::string out;
  while (!text.empty()) {
    const size_t open = std::min(text.find('{'), text.size());
    out += text.substr(0, open), text.remove_prefix(open);
    const size_t close = text.find('}');
    const auto place = std::find_if(places.begin(), places.end(), [&](const auto& p) {
      return close != text.npos && p.first == text.substr(1, close - 1);
    });
    if (place != places.end())
      out += place->second, text.remove_prefix(close + 1);
    else if (!text.empty())
      out += text.front(), text.remove_prefix(1);
  }
  return out;
}
namespace {

/// Length of the UTF-8 character at the start of `s`, or 0 if invalid. RFC 3629, section 4.
size_t character(std::string_view s) {
  const auto byte = [&](size_t i) { return i < s.size() ? static_cast<unsigned char>(s[i]) : 0u; };
  const unsigned c = byte(0);
  if (s.empty()) return 0;
  if (c < 0x80) return 1;
  const size_t n = c >> 5 == 6 ? 2 : c >> 4 == 14 ? 3 : c >> 3 == 30 ? 4 : 0;
  if (!n) return 0;
  unsigned u = c & (0x7fu >> n);
  for (size_t i = 1; i < n; ++i) {
    if (byte(i) >> 6 != 2) return 0;
    u = u << 6 | (byte(i) & 0x3f);
  }
  const unsigned least = n == 2 ? 0x80 : n == 3 ? 0x800 : 0x10000;
  return u < least || (u >= 0xd800 && u < 0xe000) || u > 0x10ffff ? 0 : n;
}

}  // namespace

std::optional<long long> whole_number(std::string_view text, long long low, long long high) {
  long long n = 0;
  const auto [end, error] = std::from_chars(text.data(), text.data() + text.size(), n);
  if (error != std::errc{} || end != text.data() + text.size() || n < low || n > high) return {};
  return n;
}

bool is_utf8(std::string_view s) {
  while (!s.empty()) {
    const size_t n = character(s);
    if (!n) return false;
    s.remove_prefix(n);
  }
  return true;
}

std::string printable(std::string_view s) {
  std::string out;
  while (!s.empty()) {
    const size_t n = character(s);
    const auto c = static_cast<unsigned char>(s[0]);
    // C1 controls, U+0080 to U+009F, are two bytes of UTF-8.
    const bool control =
        n == 1 ? c < 0x20 || c == 0x7f : n == 2 && c == 0xc2 && static_cast<unsigned char>(s[1]) < 0xa0;
    if (n && !control) {
      out += s.substr(0, n);
    } else {
      char code[8];
      std::snprintf(code, sizeof code, "\\x%02x", control && n == 2 ? unsigned(uint8_t(s[1])) : unsigned(c));
      out += code;
    }
    s.remove_prefix(std::max<size_t>(n, 1));
  }
  return out;
}

std::string nearest(std::string_view word, const std::vector<std::string>& candidates, size_t within) {
  constexpr size_t longest = 200;  // nobody mistypes a name that long
  if (word.size() > longest) return "";
  // A part of the last name, “rate” for “density_rate”, is the likeliest intention.
  std::string best;
  const size_t dot = word.rfind('.') + 1;  // 0 where there is none
  if (!within && word.size() >= dot + 3)
    for (const std::string& c : candidates)
      if (c.starts_with(word.substr(0, dot)) && c.find(word.substr(dot), dot) != std::string::npos &&
          (best.empty() || c.size() < best.size()))
        best = c;
  if (!best.empty()) return best;
  size_t best_distance = within ? within + 1 : std::max<size_t>(3, word.size() / 2);
  for (const std::string& c : candidates) {
    if (c.size() > longest) continue;
    std::vector<size_t> row(c.size() + 1);
    for (size_t j = 0; j <= c.size(); ++j) row[j] = j;
    for (size_t i = 1; i <= word.size(); ++i) {
      size_t diagonal = row[0];
      row[0] = i;
      for (size_t j = 1; j <= c.size(); ++j) {
        const size_t up = row[j];
        row[j] = std::min({row[j] + 1, row[j - 1] + 1, diagonal + (word[i - 1] != c[j - 1])});
        diagonal = up;
      }
    }
    if (row.back() < best_distance) best = c, best_distance = row.back();
  }
  return best;
}

}  // namespace pour
