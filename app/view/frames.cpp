#include "view/frames.h"

#include <QtConcurrent>

#include "background.h"
#include "base/error.h"
#include "picture/coarser.h"
#include "picture/liquid_piece.h"
#include "picture/smoke_look.h"
#include "shot/animate.h"
#include "shot/compare.h"
#include "trace/kept_skins.h"

using namespace pour;

namespace {
constexpr size_t most_bytes = 1000000000;
constexpr int ahead = 4;

QString identity(const Run& run) { return QString::fromStdString(run.folder.string() + " " + run.made); }
}  // namespace

Frames::Frames(Document& document, Runs& runs, Which run, QObject* parent)
    : QObject(parent), document_(document), runs_(runs), which_(std::move(run)) {
  connect(&document_, &Document::frame_changed, this, &Frames::update);
  connect(&document_, &Document::changed, this, &Frames::update);
  connect(&document_, &Document::stage_changed, this, &Frames::update);
  connect(&runs_, &Runs::changed, this, &Frames::update);
  connect(&runs_, &Runs::progress, this, [this](int) { update(); });
  connect(&document_, &Document::replaced, this, [this] {
    cache_.clear();
    current_ = {};
    current_frame_ = 0;
    Q_EMIT loaded();
  });
  connect(&watcher_, &QFutureWatcher<Entry>::finished, this, [this] {
    Entry e = watcher_.result();
    if (!e.fault.isEmpty()) {
      const Run* run = which_();
      if (!run || e.key.run != identity(*run))
        return update();  // nobody looks at that run any more; it may be in the trash
      Q_EMIT problem(e.fault);
    }
    newest_run_ = e.key.run, walls_ = e.walls, pieces_ = e.pieces, shows_ = e.key.shows;
    cache_.push_back(std::move(e));
    drop_unkept();
    const auto bytes_of = [](const Entry& c) {
      size_t sum = 0;
      if (c.smoke)
        for (const LitSmoke& v : *c.smoke) sum += v.rgba.size() * sizeof(float);
      if (c.seen && c.seen != c.pieces)  // liquid, as the last of them
        sum += c.seen->back().surface->mesh.triangles.size() * 48 +
               c.seen->back().surface->mesh.points.size() * 24;
      return sum;
    };
    size_t bytes = 0;
    for (const Entry& c : cache_) bytes += bytes_of(c);
    while (cache_.size() > 2 && bytes > most_bytes) {
      bytes -= bytes_of(cache_.front());
      cache_.erase(cache_.begin());
    }
    update();
  });
}

Frames::~Frames() { watcher_.waitForFinished(); }

const Frames::Entry* Frames::find(const Key& k) const {
  for (const Entry& e : cache_)
    if (e.key == k) return &e;
  return nullptr;
}

void Frames::load(const Run& run, const Key& key) {
  const bool same_run = newest_run_ == key.run;
  const auto walls = same_run ? walls_ : nullptr;
  const auto pieces = same_run && shows_ == key.shows ? pieces_ : nullptr;
  watcher_.setFuture(QtConcurrent::run(
      &beside(),
      [key, walls, pieces, stored = run.stored_frame(key.frame), shot = run.shot, cell = run.cell_size,
       seen = key.kept ? seen_as(run.shot, document_.shot()) : Shot()]() -> Entry {
        step_back();
        Entry e{key, std::make_shared<const LitFrame>(), {}, walls, pieces, {}};
        try {
          if (!e.walls) e.walls = std::make_shared<const SmokeWalls>(shot, cell);
          const bool stand = std::none_of(shot.pieces.begin(), shot.pieces.end(),
                                          [&](const Piece& p) { return moves(shot, p); });
          if (!e.pieces || !stand) {
            Shot now = shot_at(shot, key.frame);
            for (size_t i = 0; i < now.pieces.size(); ++i) now.pieces[i].shows = key.shows[i];
            e.pieces = std::make_shared<const std::vector<PicturePiece>>(picture_pieces(now));
          }
          if (const auto fewer = coarser(*e.pieces, still_triangles)) e.pieces = fewer;
          e.seen = e.pieces;
          const double time = Clock(shot).time(key.frame);
          std::vector<SmokeVolume> volumes =
              read_frame(stored, needs_flow(key.shown.quantity) || needs_warmth(key.look));
          LiquidPoints liquid = read_liquid(stored);
          color_by_materials(key.colors, liquid);
          const std::vector<float> values = values_of(liquid, key.shown.quantity);
          e.most = most_of(values);
          e.smoke = std::make_shared<const LitFrame>(
              key.shown.quantity == Quantity::none
                  ? light_frame(std::move(volumes), key.look, *e.walls, time)
                  : coloured_frame(std::move(volumes), key.shown.quantity, key.look, *e.walls, time, e.most));
          if (!liquid.place.empty()) {
            auto with = std::make_shared<std::vector<PicturePiece>>(e.pieces->begin(), e.pieces->end());
            if (auto kept = key.kept ? kept_skins(stored, seen, key.frame) : std::nullopt)
              add_skin_pieces(*with, std::move(*kept), key.colors);
            else
              e.one_in = add_liquid_piece(*with, liquid, key.surface, key.shown, values, e.most);
            e.seen = std::move(with);
          }
        } catch (...) {
          e.fault = QString::fromStdString(fault_in_flight(stored.file.string()).what());
        }
        return e;
      }));
}

void Frames::set_kept(std::set<int> frames) {
  if (frames == kept_) return;
  kept_ = std::move(frames);
  drop_unkept();
  update();
}

/// Skins that are no longer as the shot says must not come back when others of their frame are kept.
void Frames::drop_unkept() {
  std::erase_if(cache_, [this](const Entry& e) { return e.key.kept && !kept_.contains(e.key.frame); });
}

void Frames::update() {
  const Run* run = which_();
  if (!run) {
    if (current_.smoke) {
      current_ = {};
      current_frame_ = 0;
      Q_EMIT loaded();
    }
    return;
  }
  Key key{identity(*run), document_.frame(), {}, document_.shown(), document_.shot().surface, {}, false};
  // While a run has not come this far, its newest frame stands in.
  const auto there = [&](int frame) { return frame <= run->newest_frame() && run->has_frame(frame); };
  if (!there(key.frame)) key.frame = std::min(key.frame, run->newest_frame());
  if (key.frame < run->first_frame) return;
  const auto shows_kept = [&](int frame) { return key.shown == Showing() && kept_.contains(frame); };
  const auto look_at = [&](Key& k) {
    const Shot now = shot_at(document_.shot(), k.frame);
    // Of the run's liquids, which the shot may have in another order.
    Shot liquids;
    liquids.fluids = run->shot.fluids, liquids.materials = now.materials;
    for (Fluid& f : liquids.fluids)
      if (Liquid* liquid = f.as<Liquid>())
        if (const Fluid* same = now.fluid(f.id); same && same->as<Liquid>())
          liquid->material = same->as<Liquid>()->material, liquid->color_by = same->as<Liquid>()->color_by;
    // Whether a piece is seen is known by pictures alone, as it will be delivered.
    k.shows.clear();
    for (const Piece& p : run->shot.pieces) {
      const Piece* same = now.piece(p.id);
      k.shows.push_back(same ? same->shows : p.may_show());
    }
    k.look = lighting_of(now.look), k.colors = colors_of_materials(liquids), k.kept = shows_kept(k.frame);
  };
  look_at(key);
  if (const Entry* e = find(key)) {
    makes_skin_ = false;
    if (current_.smoke != e->smoke || current_.pieces != e->seen || current_frame_ != key.frame) {
      current_ = {e->smoke, e->seen, key.shown.quantity, e->most, e->one_in, key.shown.point_size, e->walls},
      current_frame_ = key.frame;
      Q_EMIT loaded();
    }
  } else if (!watcher_.isRunning()) {
    makes_skin_ = !key.kept && key.shown.point_size == 0 && run->shot.brings(FlowKind::liquid);
    load(*run, key);
    Q_EMIT working();
    return;
  }
  if (watcher_.isRunning()) return;
  for (int i = 1; i <= ahead; ++i) {
    Key next = key;
    next.frame += i;
    if (!there(next.frame)) continue;
    look_at(next);
    if (!find(next)) {
      load(*run, next);
      return;
    }
  }
}
