// What people read is plain: no sentence is long, no phrase is a riddle. Help of settings, recipes and the
// command line, the README and the guide are walked, whatever is added to them.
#include <gmock/gmock.h>

#include <algorithm>
#include <cstring>
#include <filesystem>
#include <fstream>
#include <regex>
#include <set>
#include <sstream>

#include "base/file.h"
#include "base/text.h"
#include "cli_fixture.h"
#include "shape/shape.h"
#include "shot/describe.h"
#include "shot/edit.h"
#include "shot/recipes.h"

using namespace pour;

namespace {

constexpr size_t most_words = 25;  // a sentence (plain-language guides ask for 15 to 25; common practice)

/// Phrases that leave the reader to guess the noun, or that a badge says.
const std::vector<std::string> banned{"that which",    "the same of",  "altogether", "all alike",
                                      "if not said",   "is not said",  "what flows", "in traced pictures",
                                      "that there is", "than that of", "be as",      "such a",
                                      "besides,",      "to where",     "of that."};

std::vector<std::string> sentences(const std::string& text) {
  std::vector<std::string> out;
  static const std::regex end(R"([.!?:](\s|\*|$)|\s\|\s|\n\n)");
  for (std::sregex_token_iterator it(text.begin(), text.end(), end, -1), none; it != none; ++it)
    if (it->length()) out.push_back(*it);
  return out;
}

size_t words_of(const std::string& sentence) {
  std::istringstream in(sentence);
  return size_t(std::distance(std::istream_iterator<std::string>(in), {}));
}

void must_be_plain(const std::string& text, const std::string& where) {
  for (const std::string& s : sentences(text)) EXPECT_LE(words_of(s), most_words) << where << ": " << s;
  std::string small = text;
  std::transform(small.begin(), small.end(), small.begin(),
                 [](unsigned char c) { return char(std::tolower(c)); });
  for (const std::string& phrase : banned)
    if (const size_t at = small.find(phrase); at != std::string::npos)
      ADD_FAILURE() << where << " has “" << phrase << "”: …" << text.substr(at, 60);
}

/// Whether each word of a key, “color_by”, is one of the name, “Coloured by”, or the beginning of one.
bool same_words(std::string key, const std::string& name) {
  for (const auto& [american, british] : {std::pair{"color", "colour"}, {"center", "centre"}})
    if (const size_t at = key.find(american); at != std::string::npos)
      key.replace(at, std::strlen(american), british);
  std::string small;
  for (const char c : name) small += c == '-' ? ' ' : char(std::tolower(static_cast<unsigned char>(c)));
  small = " " + small;
  std::istringstream words(std::regex_replace(key, std::regex("_"), " "));
  for (std::string word; words >> word;)
    if (small.find(" " + word) == std::string::npos) return false;
  return true;
}

/// Prose of a page: without code, headings, pictures and what stands between backticks.
std::string prose(const std::string& page) {
  std::istringstream in(page);
  std::string out, line;
  while (std::getline(in, line)) {
    if (line.starts_with("    ") || line.starts_with("#") || line.starts_with("| ---")) {
      out += "\n\n";
      continue;
    }
    const bool item =
        line.starts_with("- ") || line.starts_with("|") || std::regex_search(line, std::regex("^\\d\\. "));
    out += (item || line.empty() ? "\n\n" : " ") + line;
  }
  out = std::regex_replace(out, std::regex(R"(!\[[^\]]*\]\([^)]*\))"), "");
  return std::regex_replace(out, std::regex(R"(\]\([^)]*\))"), "]");
}

}  // namespace

TEST(Words, SettingsSayUnitDirectionAndEffectInPlainSentences) {
  std::set<std::string> seen;
  const auto walk = [&](const Shot& shot) {
    for (const Group& g : describe(shot))
      for (const Setting& s : g.settings) {
        if (!seen.insert(std::string(s.name) + s.help).second) continue;
        must_be_plain(s.help, g.path(s));
        EXPECT_LE(words_of(s.name), 3u) << g.path(s) << ": " << s.name;
        EXPECT_TRUE(same_words(s.key, s.name)) << g.path(s) << ": " << s.name;
        EXPECT_TRUE(std::string(s.help).ends_with(".")) << g.path(s);
      }
  };
  for (const Recipe& r : recipes()) {
    must_be_plain(r.help, r.key);
    must_be_plain(r.teaches, r.key);
    EXPECT_LE(std::string(r.teaches).size(), 32u) << r.key << ": a line of its card";
    walk(r.make());
  }
  Shot all;
  for (size_t i = 0; i < kinds().size(); ++i)
    all.pieces.push_back({.id = "p" + std::to_string(i), .shape = new_shape(int(i))});
  walk(all);
  EXPECT_GT(seen.size(), 180u);
}

TEST(Words, HelpOfTheCommandLineIsPlain) {
  const auto help = [](const std::string& of) { return shell(EASY_POUR_CLI " " + of + " --help").out; };
  const std::string all = help("");
  static const std::regex command(R"(\n  ([a-z-]+)  +([A-Z][^\n]*))");
  int commands = 0;
  const size_t from = all.find("Subcommands:");
  ASSERT_NE(from, std::string::npos);
  for (std::sregex_iterator it(all.begin() + long(from), all.end(), command), none; it != none;
       ++it, ++commands) {
    must_be_plain((*it)[2], (*it)[1]);
    // Options stand in two columns; what a line says goes on in the next.
    std::istringstream in(help((*it)[1]));
    for (std::string line; std::getline(in, line);)
      if (const size_t says = line.find("  ", 3); line.starts_with("  ") && says != std::string::npos)
        must_be_plain(line.substr(says), (*it)[1]);
  }
  EXPECT_GT(commands, 20);
}

// Every text that people read, as tools/messages collects it for translations: plain, and never a piece.
TEST(Words, MessagesArePlainAndWhole) {
  const Result all = shell("python3 " EASY_POUR_SOURCE "/tools/messages");
  ASSERT_EQ(all.code, 0) << all.out;
  static const std::regex message(R"re(msgid "((?:[^"\\]|\\.)+)")re");
  int count = 0;
  for (std::sregex_iterator it(all.out.begin(), all.out.end(), message), none; it != none; ++it, ++count) {
    const std::string text = (*it)[1];
    must_be_plain(text, "A message");
    for (const char* open : {"“", "(", " of ", " in "})
      EXPECT_FALSE(text.ends_with(open)) << text << " is a piece of a message";
  }
  EXPECT_GT(count, 1500);
}

TEST(Words, PlacesOfMessagesAreFilledByTheirNames) {
  EXPECT_EQ(filled("{b} after {a}", {{"a", "1"}, {"b", "2"}}), "2 after 1");
  EXPECT_EQ(filled("{a}{a}", {{"a", "{b}"}, {"b", "2"}}), "{b}{b}") << "what is filled in stays";
  EXPECT_EQ(filled("{frame:04} is not {named", {{"named", "1"}}), "{frame:04} is not {named");
  EXPECT_EQ(filled("", {}), "");
}

TEST(Words, TheReadmeAndTheGuideArePlain) {
  const std::filesystem::path source = EASY_POUR_SOURCE;
  std::vector<std::filesystem::path> pages{source / "README.md", source / "docs/formats.md",
                                           source / "docs/methods.md", source / "docs/architecture.md"};
  for (const auto& page : std::filesystem::directory_iterator(source / "docs/guide"))
    pages.push_back(page.path());
  EXPECT_GE(pages.size(), 3u);
  for (const auto& page : pages) must_be_plain(prose(read_whole(page)), page.filename().string());
}

// Each screenshot is linked and is made by tools/screenshots; each link of a page leads somewhere.
TEST(Words, PagesLinkWhatThereIs) {
  const std::filesystem::path source = EASY_POUR_SOURCE;
  std::vector<std::filesystem::path> pages{source / "README.md"};
  for (const auto& f : std::filesystem::recursive_directory_iterator(source / "docs"))
    if (f.path().extension() == ".md") pages.push_back(f.path());
  std::string linked;
  static const std::regex link(R"(\]\(([^)#:]+)[^)]*\))");
  for (const auto& page : pages) {
    const std::string text = read_whole(page);
    for (std::sregex_iterator it(text.begin(), text.end(), link), none; it != none; ++it) {
      const auto to = (page.parent_path() / std::string((*it)[1])).lexically_normal();
      EXPECT_TRUE(std::filesystem::exists(to)) << page << " links " << to;
      linked += to.string() + "\n";
    }
  }
  const std::string made = read_whole(source / "tools/screenshots");
  size_t pictures = 0;
  for (const auto& f : std::filesystem::directory_iterator(source / "docs/screenshots")) {
    EXPECT_NE(linked.find(f.path().lexically_normal().string()), std::string::npos)
        << f.path() << " is not linked";
    EXPECT_TRUE(std::regex_search(made, std::regex("\n(still|view) " + f.path().stem().string() + "[ \n]")))
        << f.path() << " is not made by tools/screenshots";
    ++pictures;
  }
  EXPECT_LT(pictures, 20u);
  for (const Recipe& r : recipes())
    EXPECT_THAT(made, testing::HasSubstr(std::string(" ") + r.key + " ")) << "its still";
}
