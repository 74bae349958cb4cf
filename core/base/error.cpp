#include "base/error.h"

#include <new>

namespace pour {

Fault fault_in_flight(const std::string& where) {
  try {
    throw;
  } catch (const Fault& f) {
    return f;
  } catch (const std::bad_alloc&) {
    return machine_fault(where, "needs more memory than there is.",
                         "Use larger cells or less detail, or close other programs.");
  } catch (const GivenUp&) {
    return machine_fault(where, "was given up.", "Start it again.");
  } catch (const std::exception& e) {
    return machine_fault(where, std::string("failed in a way that is not foreseen (") + e.what() + ").",
                         "What was stored before is kept; try it again with other settings.");
  } catch (...) {
    return machine_fault(where, "failed in a way that is not foreseen.", "What was stored before is kept.");
  }
}

}  // namespace pour
