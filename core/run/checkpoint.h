// A state in full precision; a run that goes on from it continues to the bit.
#pragma once
#include "run/run_folder.h"

namespace pour {

struct Checkpoint {
  GasState state;  // without geometry, which follows from the shot
  Ledger ledger;
  int frame = 0;                     // the last that is finished; the state may be some steps further
  int substeps = 0, iterations = 0;  // of the frame that is under way
};

/// It carries what it belongs to: the shot as far as the flow depends on it, the cell size and the program's
/// version. Throws Fault (Blame::machine).
void write_checkpoint(const Run&, const Checkpoint&);
bool has_checkpoint(const Run&);
/// Throws Fault (Blame::shot) for a file that is torn, from another version or of another run.
Checkpoint read_checkpoint(const Run&);

}  // namespace pour
