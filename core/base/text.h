// Text that comes from outside and goes to a terminal, and whole numbers in it.
#pragma once
#include <optional>
#include <string>
#include <string_view>
#include <vector>

namespace pour {

constexpr size_t text_longest = 4096;  // bytes of any text in a shot or a record

/// The whole number that all of `text` is, from `low` to `high`; none for anything else, however large.
std::optional<long long> whole_number(std::string_view text, long long low, long long high);

/// Whether it is UTF-8 as RFC 3629 has it: nothing overlong, no surrogates, at most U+10FFFF.
bool is_utf8(std::string_view);

/// The text with control codes, and bytes that are no UTF-8, written out (\x1b): no name in a file can move
/// the cursor of a terminal or colour it.
std::string printable(std::string_view);

/// The candidate nearest to `word` by edit distance, or "" where none is near: at most `within` edits away,
/// or, where that is 0, about half the word.
std::string nearest(std::string_view word, const std::vector<std::string>& candidates, size_t within = 0);

}  // namespace pour
