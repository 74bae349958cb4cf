// The flows of a run in full precision. A run resumed from a checkpoint gives the same bits.
#pragma once
#include <cstring>
#include <fstream>
#include <string_view>
#include <type_traits>

#include "run/flow.h"
#include "run/run_folder.h"

namespace pour {

/// Values that a flow writes, in the order of reading.
class CheckpointWriter {
 public:
  template <class T>
  void put(const T& value) {
    static_assert(std::is_trivially_copyable_v<T>);
    small_.append(reinterpret_cast<const char*>(&value), sizeof value);
  }
  /// Referenced, not copied; must live until the checkpoint is written.
  void put_all(const void* data, size_t bytes);

 private:
  friend void write_checkpoint(const Run&, int, const std::vector<std::unique_ptr<Flow>>&);
  struct Piece {
    size_t small_end;        // end of the small values before it
    std::string_view large;  // follows those
  };
  std::string small_;
  std::vector<Piece> pieces_;
};

class CheckpointReader {
 public:
  /// Each throws Fault (Blame::shot) if the file ends too soon.
  template <class T>
  void take(T& value) {
    static_assert(std::is_trivially_copyable_v<T>);
    get(&value, sizeof value);
    small_.append(reinterpret_cast<const char*>(&value), sizeof value);
  }
  void take_all(void* data, size_t bytes);
  /// Throws if fewer bytes are left, before memory is allocated for them.
  void expect(double bytes) const;
  /// The Fault for contents that do not fit the flow.
  Fault unfit(const std::string& why) const;

 private:
  friend int read_checkpoint(const Run&, const std::vector<std::unique_ptr<Flow>>&);
  explicit CheckpointReader(const std::filesystem::path&);
  void get(void*, size_t);
  uint64_t sum();

  std::filesystem::path file_;
  std::ifstream in_;
  size_t rest_ = 0;
  std::string small_;
  std::vector<uint64_t> sums_;
};

/// Writes the flows as they are, possibly some steps beyond their last finished frame, with the shot as far
/// as they depend on it, the cell size and the program's version. Throws Fault (Blame::machine).
void write_checkpoint(const Run&, int frame, const std::vector<std::unique_ptr<Flow>>&);
bool has_checkpoint(const Run&);
/// Restores the flows and returns the last finished frame. Throws Fault (Blame::shot) if the file is damaged,
/// from another version or of another run; the flows must then start anew.
int read_checkpoint(const Run&, const std::vector<std::unique_ptr<Flow>>&);

}  // namespace pour
