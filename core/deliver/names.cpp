#include "deliver/names.h"

#include <cstdio>

#include "base/error.h"
#include "base/text.h"

namespace pour {
namespace {

constexpr const char* where = "Names of images";

/// The text for a word in braces: “frame” or “frame:06”.
bool number_as(const std::string& word, const std::string& key, int value, std::string& out) {
  if (word == key) {
    out += std::to_string(value);
    return true;
  }
  if (!word.starts_with(key + ":0") || word.size() != key.size() + 3) return false;
  const char digits = word.back();
  if (digits < '1' || digits > '9') return false;
  char text[32];
  std::snprintf(text, sizeof text, "%0*d", digits - '0', value);
  out += text;
  return true;
}

}  // namespace

std::string picture_name(const std::string& pattern, const std::string& shot, int run, int frame,
                         bool several) {
  const char* mend = "Write them as {shot}.{frame:06} or {shot}_{run}_{frame:04}.";
  std::string out;
  bool numbered = false;
  for (size_t i = 0; i < pattern.size(); ++i) {
    if (pattern[i] != '{') {
      out += pattern[i];
      continue;
    }
    const size_t end = pattern.find('}', i);
    if (end == std::string::npos)
      throw shot_fault(where, filled("“{pattern}” has no closing brace.", {{"pattern", pattern.substr(i)}}),
                       mend);
    const std::string word = pattern.substr(i + 1, end - i - 1);
    if (word == "shot")
      out += shot;
    else if (number_as(word, "frame", frame, out))
      numbered = true;
    else if (!number_as(word, "run", run, out))
      throw shot_fault(where, filled("“{word}” stands for nothing.", {{"word", "{" + word + "}"}}), mend);
    i = end;
  }
  if (several && !numbered)
    throw shot_fault(where, filled("“{pattern}” is the same for every frame.", {{"pattern", pattern}}), mend);
  if (out.empty() || out == "." || out == ".." || out.find('/') != std::string::npos)
    throw shot_fault(where, filled("“{name}” can't be the name of a file.", {{"name", out}}), mend);
  return out;
}

}  // namespace pour
