// The core's exception for people: what is wrong, where, and how to mend it.
#pragma once
#include <stdexcept>
#include <string>

namespace pour {

/// Whose fault it is. The numbers are the exit codes of easy-pour-cli.
enum class Blame { shot = 1, usage = 2, machine = 3 };

class Fault : public std::runtime_error {
 public:
  /// Very long parts are cut.
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

/// Thrown by work that was asked to stop (base/work.h). Not a fault.
struct GivenUp {};

/// The current exception as a Fault. A Fault is returned as it is; std::bad_alloc and exceptions of libraries
/// become one that names `where`. Call it in a catch block at every boundary: the end of a thread, of main,
/// of a window callback.
Fault fault_in_flight(const std::string& where);

}  // namespace pour
