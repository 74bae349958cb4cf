// A solver as the frame loop sees it. All smoke is one flow and all liquid another; each takes its own steps.
#pragma once
#include <functional>
#include <memory>
#include <string>
#include <vector>

#include "base/vec.h"
#include "base/work.h"
#include "frames/frame.h"
#include "frames/stored.h"
#include "world/ledger.h"

namespace pour {

class Staging;
class CheckpointWriter;
class CheckpointReader;

/// Measurements of a flow at a frame.
struct FlowRecord {
  std::string name;
  double cells = 0, particles = 0;
  double drops = 0;  // part of in_shot too small for cells, counted by particles
  Ledger ledger;
  Vec3d centroid;                                                // m
  double max_speed = 0, kinetic_energy = 0, max_divergence = 0;  // m/s, J, 1/s
  int solver_iterations = 0, substeps = 0;                       // over all its steps
};

/// Measurements in words: “8.1 k cells, 190 ml of liquid”; the amount alone: “190 ml”, “12 mg”; losses: “4 %
/// left the bounds”.
std::string in_words(const FlowRecord&);
std::string amount_in_words(const FlowRecord&, double amount);
std::string losses_in_words(const FlowRecord&);

/// Index of each fluid of an earlier run in this one; -1: removed.
using FluidNumbers = std::vector<int>;

class Flow {
 public:
  virtual ~Flow() = default;
  /// Name in records and tables.
  virtual const char* name() const = 0;
  /// Sets the initial state. May be called again to start anew.
  virtual void begin() = 0;
  /// Sets the state from a frame's file of an earlier run. `numbers` as for renumber(). Throws Fault
  /// (Blame::shot) if the file does not suffice.
  virtual void begin_from(const StoredFrame&, const FlowRecord&, double time,
                          const FluidNumbers& numbers) = 0;
  /// Renumbers fluids after restore() from a run whose fluids had other indices.
  virtual void renumber(const FluidNumbers&) {}
  /// Steps to the time of a frame, s. Returns false if `stop` ended it between two steps. Throws Fault
  /// (Blame::shot) if it would take too many steps.
  virtual bool advance(int frame, double time, const StopAsked& stop) = 0;
  virtual double time() const = 0;  // s
  /// Measurements at the current frame; resets what is counted over steps.
  virtual FlowRecord measure() = 0;
  /// Its grids for the frame's file, from a copy of the state, so that they can be built on another thread.
  virtual FramePart frame_part() const = 0;
  /// Saves all that is needed to continue to the bit.
  virtual void save(CheckpointWriter&) const = 0;
  /// Reads a checkpoint. Nothing is computed before revive(), which is called once the whole file proved
  /// valid.
  virtual void restore(CheckpointReader&) = 0;
  virtual void revive() = 0;
};

/// Creates each kind of flow. They report to `notice` once what a user should know.
std::unique_ptr<Flow> gas_flow(const Staging&, std::function<void(const std::string&)> notice = {});
std::unique_ptr<Flow> liquid_flow(const Staging&);
/// The flows of a shot.
std::vector<std::unique_ptr<Flow>> flows_of(const Staging&,
                                            std::function<void(const std::string&)> notice = {});

}  // namespace pour
