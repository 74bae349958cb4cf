// Text from outside: validation, safe printing, numbers, nearest words.
#pragma once
#include <optional>
#include <string>
#include <string_view>
#include <vector>

namespace pour {

/// A message with its places filled in: filled("{piece} is full.", {{"piece", name}}). The first argument is
/// the key of a translation; tools/messages collects it. A place that is not named stays as it is.
std::string filled(std::string_view text,
                   std::initializer_list<std::pair<std::string_view, std::string>> places);

/// “Did you mean “…”?” for what nearest() found; other advice if it found nothing.
std::string did_you_mean(const std::string& near, const std::string& otherwise);

/// The parts between the separators, as they are.
std::vector<std::string> split(const std::string& text, char at);
/// The text without white space at its ends.
std::string trimmed(std::string_view);

constexpr size_t text_longest = 4096;  // bytes of any text in a shot or a record

/// `text` as an integer from `low` to `high`; nothing if it is anything else.
std::optional<long long> whole_number(std::string_view text, long long low, long long high);

/// Whether text is valid UTF-8 (RFC 3629).
bool is_utf8(std::string_view);

/// The text with control codes and invalid UTF-8 escaped (\x1b), so that no name in a file can control a
/// terminal.
std::string printable(std::string_view);

/// The candidate nearest to `word` by edit distance, or "" if none is within `within` edits (0: about half
/// the word).
std::string nearest(std::string_view word, const std::vector<std::string>& candidates, size_t within = 0);

}  // namespace pour
