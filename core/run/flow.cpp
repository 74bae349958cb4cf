#include "run/flow.h"

#include <cmath>

#include "base/text.h"
#include "base/units.h"
#include "run/staging.h"

namespace pour {

std::string amount_in_words(const FlowRecord& r, double amount) {
  if (r.name == "liquid") return format_quantity(amount, Unit::volume);
  return format_quantity(amount * 1e6, Unit::none) + " mg";
}

std::string in_words(const FlowRecord& r) {
  // Drops smaller than a cell fill none.
  const std::string amount = amount_in_words(r, r.ledger.in_shot);
  return r.cells >= 1 ? filled("{cells} cells, {amount} of {fluid}",
                               {{"cells", format_count(r.cells)}, {"amount", amount}, {"fluid", r.name}})
                      : filled("{amount} of {fluid}", {{"amount", amount}, {"fluid", r.name}});
}

std::string losses_in_words(const FlowRecord& r) {
  std::string out;
  const auto add = [&](double amount, const char* how) {
    if (amount > 0.005 * r.ledger.poured)
      out += (out.empty() ? "" : ", ") +
             format_quantity(std::round(100 * amount / r.ledger.poured), Unit::none) + " % " + how;
  };
  add(r.ledger.left, "left the bounds");
  add(r.ledger.drained, "drained");
  add(r.ledger.decayed, "faded");
  return out.empty() ? "nothing lost" : out;
}

std::vector<std::unique_ptr<Flow>> flows_of(const Staging& staging,
                                            std::function<void(const std::string&)> notice) {
  std::vector<std::unique_ptr<Flow>> out;
  if (staging.brings(FlowKind::gas)) out.push_back(gas_flow(staging, std::move(notice)));
  if (staging.brings(FlowKind::liquid)) out.push_back(liquid_flow(staging));
  return out;
}

}  // namespace pour
