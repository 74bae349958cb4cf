#include "base/error.h"
#include "base/text.h"

#include <stdexcept>
#include <system_error>

#include <new>

namespace pour {
namespace {

constexpr size_t longest_place = 5000, longest_words = 700;  // bytes; a path may have 4096

std::string cut(const std::string& text, size_t most) {
  if (text.size() <= most) return text;
  size_t end = most;
  while (end > 0 && (static_cast<unsigned char>(text[end]) & 0xc0) == 0x80) --end;  // not within a character
  return text.substr(0, end) + " …";
}

}  // namespace

Fault::Fault(Blame blame, const std::string& where, const std::string& what, const std::string& mend)
    : std::runtime_error(cut(where, longest_place) + ": " + cut(what, longest_words) +
                         (mend.empty() ? "" : " " + cut(mend, longest_words))),
      blame(blame),
      where(cut(where, longest_place)),
      problem(cut(what, longest_words)),
      mend(cut(mend, longest_words)) {}

namespace {

Fault too_large(const std::string& where) {
  return machine_fault(where, "needs more memory than there is.",
                       "Use larger cells or less detail, or close other programs.");
}

}  // namespace

Fault fault_in_flight(const std::string& where) {
  try {
    throw;
  } catch (const Fault& f) {
    return f;
  } catch (const std::bad_alloc&) {
    return too_large(where);
  } catch (const std::length_error&) {  // what containers say of sizes that no memory has
    return too_large(where);
  } catch (const std::system_error& e) {
    return machine_fault(
        where, filled("was refused something by the system: {message}.", {{"message", e.code().message()}}),
        "Close other programs, and try it again.");
  } catch (const GivenUp&) {
    return machine_fault(where, "was given up.", "Start it again.");
  } catch (const std::exception& e) {
    return machine_fault(where,
                         filled("failed in a way that is not foreseen ({what}).", {{"what", e.what()}}),
                         "What was stored before is kept; try it again with other settings.");
  } catch (...) {
    return machine_fault(where, "failed in a way that is not foreseen.", "What was stored before is kept.");
  }
}

}  // namespace pour
