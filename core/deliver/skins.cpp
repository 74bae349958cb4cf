#include "deliver/skins.h"

#include "base/error.h"
#include "base/text.h"
#include "shot/compare.h"
#include "trace/kept_skins.h"

namespace pour {

SkinsMade make_skins(const Run& run, const Shot& look_of, const FrameRange& range,
                     const std::function<bool(int done, int of)>& progress) {
  const std::vector<int> missing = missing_frames(run, range);
  if (!missing.empty())
    throw shot_fault(
        run.folder.string(),
        filled("frames are missing or torn: {missing}.", {{"missing", frames_in_words(missing)}}),
        "Resume the run to compute them, or name frames that are there.");
  const Shot seen = seen_as(run.shot, look_of);
  SkinsMade out;
  const int of = range.last - range.first + 1;
  for (int frame = range.first; frame <= range.last; ++frame) {
    const StoredFrame stored = run.stored_frame(frame);
    if (has_skins(stored, seen, frame))
      ++out.current;
    else
      keep_skins(stored, seen, frame), ++out.made;
    if (progress && !progress(frame - range.first + 1, of) && frame < range.last) {
      out.whole = false;
      break;
    }
  }
  return out;
}

}  // namespace pour
