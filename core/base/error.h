// The one exception of the core: says what is wrong, where, and how to mend it.
#pragma once
#include <stdexcept>
#include <string>

namespace pour {

/// Whose fault it is; the numbers are the exit codes of easy-pour-cli.
enum class Blame { shot = 1, usage = 2, machine = 3 };

class Fault : public std::runtime_error {
 public:
  /// Parts that repeat something endless are cut short.
  Fault(Blame blame, const std::string& where, const std::string& what, const std::string& mend);
  Blame blame;
  std::string where, problem, mend;
};

inline Fault shot_fault(std::string where, std::string what, std::string mend) {
  return {Blame::shot, std::move(where), std::move(what), std::move(mend)};
}
inline Fault usage_fault(std::string where, std::string what, std::string mend) {
  return {Blame::usage, std::move(where), std::move(what), std::move(mend)};
}
inline Fault machine_fault(std::string where, std::string what, std::string mend) {
  return {Blame::machine, std::move(where), std::move(what), std::move(mend)};
}

/// Thrown by work that was asked to give up (base/work.h); no fault of anybody.
struct GivenUp {};

/// What the exception in flight says, as a Fault: one is passed on as it is, memory that is used up and
/// whatever a library throws become one of `where`. Call it in a catch block, at every door: the end of a
/// thread, of main, of a callback of the window.
Fault fault_in_flight(const std::string& where);

}  // namespace pour
