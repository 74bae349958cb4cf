// The flows of a run in full precision; a run that goes on from there continues to the bit.
#pragma once
#include <cstring>
#include <fstream>
#include <string_view>
#include <type_traits>

#include "run/flow.h"
#include "run/run_folder.h"

namespace pour {

/// What a flow writes, in the order in which it reads it again.
class CheckpointWriter {
 public:
  template <class T>
  void put(const T& value) {
    static_assert(std::is_trivially_copyable_v<T>);
    small_.append(reinterpret_cast<const char*>(&value), sizeof value);
  }
  /// Is only looked at until the checkpoint is written.
  void put_all(const void* data, size_t bytes);

 private:
  friend void write_checkpoint(const Run&, int, const std::vector<std::unique_ptr<Flow>>&);
  struct Piece {
    size_t small_end;        // of the small values before it
    std::string_view large;  // behind those
  };
  std::string small_;
  std::vector<Piece> pieces_;
};

class CheckpointReader {
 public:
  /// Each throws Fault (Blame::shot) where the file ends before.
  template <class T>
  void take(T& value) {
    static_assert(std::is_trivially_copyable_v<T>);
    get(&value, sizeof value);
    small_.append(reinterpret_cast<const char*>(&value), sizeof value);
  }
  void take_all(void* data, size_t bytes);
  /// Refuses to go on where fewer bytes are left: before memory is taken for them.
  void expect(double bytes) const;
  /// What is thrown where it does not fit the flow that reads it.
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

/// Of the flows as they are, which may be some steps further than their last finished frame. It carries what
/// it belongs to: the shot as far as the flow depends on it, the cell size and the program's version. Throws
/// Fault (Blame::machine).
void write_checkpoint(const Run&, int frame, const std::vector<std::unique_ptr<Flow>>&);
bool has_checkpoint(const Run&);
/// Brings the same flows to where they were, and returns the last finished frame. Throws Fault (Blame::shot)
/// for a file that is torn, from another version or of another run; the flows then have to begin anew.
int read_checkpoint(const Run&, const std::vector<std::unique_ptr<Flow>>&);

}  // namespace pour
