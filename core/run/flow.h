// A solver as the frame loop sees it: smoke is one flow. A shot may have several; each takes its own steps.
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

/// What a flow showed in a frame.
struct FlowRecord {
  std::string name;
  double cells = 0, particles = 0;
  double drops = 0;  // of what is in shot: too small for cells, counted by particles
  Ledger ledger;
  Vec3d centroid;                                                // m
  double max_speed = 0, kinetic_energy = 0, max_divergence = 0;  // m/s, J, 1/s
  int solver_iterations = 0, substeps = 0;                       // of all its steps
};

/// “8.1 k cells, 190 ml of liquid”; a flow's amount alone: “190 ml”, “12 mg”; “4 % left the bounds”.
std::string in_words(const FlowRecord&);
std::string amount_in_words(const FlowRecord&, double amount);
std::string losses_in_words(const FlowRecord&);

/// The numbers that fluids have now, by those that they had in an earlier run; -1: it is gone.
using FluidNumbers = std::vector<int>;

class Flow {
 public:
  virtual ~Flow() = default;
  /// What it is called in records and tables.
  virtual const char* name() const = 0;
  /// What there is at the very beginning. May be asked for again, and then forgets all that was.
  virtual void begin() = 0;
  /// What there was at a frame of an earlier run, as far as its file knows. `numbers` as for renumber().
  /// Throws Fault (Blame::shot) where that is not enough.
  virtual void begin_from(const StoredFrame&, const FlowRecord&, double time,
                          const FluidNumbers& numbers) = 0;
  /// After restore() from the checkpoint of a run whose fluids had other numbers.
  virtual void renumber(const FluidNumbers&) {}
  /// Steps on to the time of a frame, s, from wherever it is; false where `stop` said so between two steps.
  /// Throws Fault (Blame::shot) where that would take far too many.
  virtual bool advance(int frame, double time, const StopAsked& stop) = 0;
  virtual double time() const = 0;  // s
  /// Of the frame that it has come to; what is counted over its steps begins anew.
  virtual FlowRecord measure() = 0;
  /// Its part of a frame's file, from a copy of what there is now: it may be asked for on another thread.
  virtual FramePart frame_part() const = 0;
  /// All that it needs to go on to the bit.
  virtual void save(CheckpointWriter&) const = 0;
  /// Reads it again; nothing is computed from it before revive(), which comes once all of it proved whole.
  virtual void restore(CheckpointReader&) = 0;
  virtual void revive() = 0;
};

/// Each kind of flow. They tell `notice` what somebody should know, once.
std::unique_ptr<Flow> gas_flow(const Staging&, std::function<void(const std::string&)> notice = {});
std::unique_ptr<Flow> liquid_flow(const Staging&);
/// Those of a shot. They tell `notice` what somebody should know, once.
std::vector<std::unique_ptr<Flow>> flows_of(const Staging&,
                                            std::function<void(const std::string&)> notice = {});

}  // namespace pour
