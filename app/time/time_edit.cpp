// What the time strip changes in the shot.
#include <cmath>
#include <QContextMenuEvent>
#include <QFormLayout>
#include <QLineEdit>
#include <QMenu>
#include <QWidgetAction>

#include "base/error.h"
#include "shot/edit.h"
#include "time/strip_measures.h"
#include "time/time_strip.h"

using namespace pour;

namespace {

/// A line for a value that is typed, in a menu that goes away when it was.
QLineEdit* typed(QFormLayout* form, const QString& name, const QString& text, const char* object) {
  auto* field = new QLineEdit(text);
  field->setObjectName(object);
  field->setAccessibleName(name);
  form->addRow(name, field);
  return field;
}

}  // namespace

void TimeStrip::drag_window(double at) {
  const Pour* p = document_.shot().pour(id_in(held_.path));
  if (!p || held_.window >= p->windows.list.size()) return;  // it may have been undone meanwhile
  const Clock& clock = document_.clock();
  const auto& list = p->windows.list;
  // In whole frames, first and last; what lies between two snaps.
  const auto frame_of = [&](double time) { return std::round(clock.film_frame(time)); };
  const double delta = std::round(at - grab_);
  if (delta == 0 && list[held_.window] == grabbed_) return;  // a click moves nothing
  const double first = frame_of(grabbed_.from), end = frame_of(grabbed_.to),
               lowest = held_.window ? frame_of(list[held_.window - 1].to) : 1,
               highest = held_.window + 1 < list.size() ? frame_of(list[held_.window + 1].from)
                                                        : document_.shot().film.frames + 1.0;
  Span span = grabbed_;
  if (held_.grip == Grip::first)
    span.from = clock.time(std::clamp(first + delta, lowest, std::max(lowest, end - 1)));
  if (held_.grip == Grip::last)
    span.to = clock.time(std::clamp(end + delta, first + 1, std::max(first + 1, highest)));
  if (held_.grip == Grip::whole) {
    const double move = std::clamp(delta, lowest - first, std::max(lowest - first, highest - end));
    span = {clock.time(first + move), clock.time(end + move)};
  }
  if (span.to <= span.from) return;
  document_.edit(
      tr("Pour window"), [&](Shot& s) { s.pour(id_in(held_.path))->windows.list[held_.window] = span; },
      QString("pour %1").arg(drags_));
}

/// Changes the tracks of all selected keys, each from what it was when the drag began.
void TimeStrip::edit_tracks(const QString& what,
                            const std::function<void(Track&, const std::string&)>& change,
                            const QString& merge) {
  document_.edit(
      what,
      [&](Shot& s) {
        std::set<std::string> paths;
        for (const SelectedKey& k : selected_before_) paths.insert(k.path);
        for (const std::string& path : paths) {
          const Track* old = find_track(before_, path);
          if (!old) continue;
          Track track = *old;
          change(track, path);
          set_track(s, path, track);
        }
      },
      merge);
}

namespace {

/// Moves keys of a track; one that comes onto another takes its place.
void replace_keys(Track& track, const std::vector<std::pair<double, Key>>& moved) {
  for (const auto& [old, key] : moved)
    std::erase_if(track.keys, [&](const Key& k) { return std::abs(k.time - old) < same_time; });
  for (const auto& [old, key] : moved) {
    std::erase_if(track.keys, [&](const Key& k) { return std::abs(k.time - key.time) < same_time; });
    track.keys.insert(std::upper_bound(track.keys.begin(), track.keys.end(), key,
                                       [](const Key& a, const Key& b) { return a.time < b.time; }),
                      key);
  }
}

}  // namespace

void TimeStrip::drag_keys(const QPointF& at) {
  selected_before_.insert({held_.path, held_.time});
  const double frames = std::round(scale().frame_at(at.x()) - grab_);
  const auto all = lanes();
  const Clock clock(before_);
  std::set<SelectedKey> now;
  edit_tracks(
      tr("Move keys"),
      [&](Track& track, const std::string& path) {
        const TrackView view(before_, clock, path);
        const Setting& about = view.setting();
        double rise = 0;
        for (const Lane& lane : all)
          if (lane.path == path && path == held_.path && lane.tall && view.parts() == 1)
            rise = view.value_at(lane, at.y()) - view.value_at(lane, pressed_.y());
        std::vector<std::pair<double, Key>> moved;
        for (const SelectedKey& k : selected_before_) {
          const Key* old = k.path == path ? track.key_at(k.time) : nullptr;
          if (!old) continue;
          Key key = *old;
          key.time = view.key_time(view.film_frame(key.time) + frames);
          if (rise != 0)
            set_part(key.value, 0, std::clamp(part_of(key.value, 0) + rise, about.low, about.high));
          now.insert({path, key.time});
          moved.push_back({k.time, key});
        }
        replace_keys(track, moved);
      },
      QString("keys %1").arg(drags_));
  selected_ = now;
  update();
}

std::optional<std::pair<double, double>> TimeStrip::span_of(const Shot& shot,
                                                            const std::set<SelectedKey>& keys) const {
  if (keys.size() < 2) return {};
  const Clock clock(shot);
  double first = 1e300, last = -1e300;
  for (const SelectedKey& k : keys) {
    const double at = TrackView(shot, clock, k.path).film_frame(k.time);
    first = std::min(first, at), last = std::max(last, at);
  }
  if (last - first < 1e-3) return {};
  return std::pair(first, last);
}

void TimeStrip::stretch_keys(double frame) {
  const auto span = span_of(before_, selected_before_);
  if (!span) return;
  // In frames of the film, whichever each key is on.
  const Clock clock(before_);
  const double held = held_.end, still = held == span->first ? span->second : span->first;
  if (std::abs(frame - still) < 1) return;
  const double by = (frame - still) / (held - still);
  std::set<SelectedKey> now;
  edit_tracks(
      tr("Stretch keys"),
      [&](Track& track, const std::string& path) {
        const TrackView view(before_, clock, path);
        std::vector<std::pair<double, Key>> moved;
        for (const SelectedKey& k : selected_before_) {
          const Key* old = k.path == path ? track.key_at(k.time) : nullptr;
          if (!old) continue;
          Key key = *old;
          const double at = std::round(still + (view.film_frame(key.time) - still) * by);
          key.time = view.key_time(at);
          now.insert({path, key.time});
          moved.push_back({k.time, key});
        }
        replace_keys(track, moved);
      },
      QString("stretch %1").arg(drags_));
  selected_ = now;
}

void TimeStrip::drag_handle(const QPointF& at) {
  const auto all = lanes();
  for (const Lane& lane : all) {
    if (lane.path != held_.path) continue;
    const TrackView view(document_.shot(), document_.clock(), lane.path);
    const auto& keys = view.track().keys;
    for (size_t i = 0; i + 1 < keys.size(); ++i) {
      if (std::abs(keys[i].time - held_.time) > same_time) continue;
      const QPointF a = view.key_place(lane, scale(), keys[i], 0),
                    b = view.key_place(lane, scale(), keys[i + 1], 0);
      const double time = std::clamp((at.x() - a.x()) / std::max(1.0, b.x() - a.x()), 0.0, 1.0);
      const double way =
          std::abs(b.y() - a.y()) > 1 ? std::clamp((at.y() - a.y()) / (b.y() - a.y()), -5.0, 5.0) : 0;
      document_.edit(
          tr("Handle"),
          [&](Shot& s) {
            Track track = view.track();
            Handles& h = track.keys[i].handles;
            (held_.grip == Grip::handle_out ? h.out_time : h.in_time) = time;
            (held_.grip == Grip::handle_out ? h.out_way : h.in_way) = way;
            set_track(s, lane.path, track);
          },
          QString("handle %1").arg(drags_));
      return;
    }
  }
}

void TimeStrip::select_in(const QRectF& box) {
  selected_ = selected_before_;
  for (const Lane& lane : lanes()) {
    if (lane.kind != Lane::Kind::track) continue;
    const TrackView view(document_.shot(), document_.clock(), lane.path);
    for (const Key& k : view.track().keys)
      for (int p = 0; p < std::max(1, view.parts()); ++p)
        if (box.contains(view.key_place(lane, scale(), k, p))) selected_.insert({lane.path, k.time});
  }
}

void TimeStrip::add_key(const Lane& lane, double frame) {
  document_.edit(tr("Add a key"),
                 [&](Shot& s) { change_value(s, lane.path, value_at(s, lane.path, frame), frame); });
}

void TimeStrip::remove_selected() {
  if (selected_.empty()) return;
  before_ = document_.shot(), selected_before_ = selected_;
  edit_tracks(tr("Remove keys"), [&](Track& track, const std::string& path) {
    for (const SelectedKey& k : selected_before_)
      if (k.path == path)
        std::erase_if(track.keys, [&](const Key& key) { return std::abs(key.time - k.time) < same_time; });
  });
}

void TimeStrip::nudge_selected(double frames) {
  if (selected_.empty()) return;
  before_ = document_.shot(), selected_before_ = selected_;
  std::set<SelectedKey> now;
  const Clock clock(before_);
  edit_tracks(tr("Move keys"), [&](Track& track, const std::string& path) {
    const TrackView view(before_, clock, path);
    std::vector<std::pair<double, Key>> moved;
    for (const SelectedKey& k : selected_before_)
      if (const Key* old = k.path == path ? track.key_at(k.time) : nullptr) {
        Key key = *old;
        key.time = view.key_time(view.film_frame(key.time) + frames);
        now.insert({path, key.time});
        moved.push_back({k.time, key});
      }
    replace_keys(track, moved);
  });
  selected_ = now;
  update();
}

void TimeStrip::copy_selected() {
  copied_.clear();
  for (const SelectedKey& k : selected_)
    if (const Track* track = find_track(document_.shot(), k.path))
      if (const Key* key = track->key_at(k.time)) copied_.emplace_back(k.path, *key);
}

void TimeStrip::paste() {
  if (copied_.empty()) return;
  // The first of them is put at the playhead.
  const Clock& clock = document_.clock();
  double first = 1e300;
  for (const auto& [path, key] : copied_)
    if (find_track(document_.shot(), path))
      first = std::min(first, clock.key_frame(find_setting(document_.shot(), path), key.time));
  std::set<SelectedKey> now;
  document_.edit(tr("Paste keys"), [&](Shot& s) {
    for (const auto& [path, key] : copied_) {
      const Track* old = find_track(s, path);
      if (!old) continue;
      Track track = *old;
      Key k = key;
      const Setting about = find_setting(s, path);
      k.time = clock.key_time(about, clock.key_frame(about, k.time) + document_.frame() - first);
      replace_keys(track, {{k.time, k}});
      set_track(s, path, track);
      now.insert({path, k.time});
    }
  });
  selected_ = now;
  update();
}

/// Frame and value of a key by number.
void TimeStrip::edit_key(const SelectedKey& key, const QPoint& at) {
  const Setting about = find_setting(document_.shot(), key.path);
  const Key* now = about.track ? about.track->key_at(key.time) : nullptr;
  if (!now) return;
  auto* menu = new QMenu(this);
  menu->setAttribute(Qt::WA_DeleteOnClose);
  auto* box = new QWidget(menu);
  auto* form = new QFormLayout(box);
  auto* frame =
      typed(form, tr("Frame"), QString::fromStdString(time_in_words(about, now->time)), "key_frame");
  auto* value = typed(form, QString::fromUtf8(about.name), QString::fromStdString(to_text(about, now->value)),
                      "key_value");
  const auto done = [this, key, about, frame, value, menu] {
    document_.edit(tr("Edit a key"), [&](Shot& s) {
      const Track* old = find_track(s, key.path);
      const Key* k = old ? old->key_at(key.time) : nullptr;
      if (!k) return;
      Track track = *old;
      Key changed = *k;
      changed.time = time_from_words(about, frame->text().toStdString(), tr("Frame").toStdString());
      if (!(std::abs(changed.time) <= last_key_time))
        throw shot_fault("Frame", "is too far from the shot.", "Choose a frame of it.");
      changed.value = from_text(about, about.value, value->text().toStdString(), about.name);
      replace_keys(track, {{key.time, changed}});
      set_track(s, key.path, track);
    });
    menu->close();
  };
  connect(frame, &QLineEdit::returnPressed, this, done);
  connect(value, &QLineEdit::returnPressed, this, done);
  auto* action = new QWidgetAction(menu);
  action->setDefaultWidget(box);
  menu->addAction(action);
  menu->popup(at);
  value->setFocus(), value->selectAll();
}

/// Amount, rate and seed of the wobble of a setting.
void TimeStrip::edit_wobble(const std::string& path, const QPoint& at) {
  const Setting about = find_setting(document_.shot(), path);
  if (!about.track) return;
  const Wobble& w = about.track->wobble;
  const int parts = parts_of(about.value);
  const auto joined = [&](const Vec3d& v, Unit unit) {
    QStringList out;
    for (int p = 0; p < parts; ++p) out << QString::fromStdString(format_quantity(v[p], unit, 6));
    return out.join(", ");
  };
  auto* menu = new QMenu(this);
  menu->setAttribute(Qt::WA_DeleteOnClose);
  auto* box = new QWidget(menu);
  auto* form = new QFormLayout(box);
  auto* amount = typed(form, tr("Wobbles by"), joined(w.amount, about.unit), "wobble_amount");
  auto* rate = typed(form, tr("Times a second"), joined(w.rate, Unit::rate), "wobble_rate");
  auto* seed = typed(form, tr("Seed"), QString::number(w.seed), "wobble_seed");
  const auto done = [=, this] {
    document_.edit(tr("Wobble"), [&](Shot& s) {
      const Track* old = find_track(s, path);
      if (!old) return;
      Track track = *old;
      const auto read = [&](QLineEdit* field, Unit unit, double most, const QString& name) {
        Vec3d out{};
        const QStringList list = field->text().split(',');
        for (int p = 0; p < parts; ++p) {
          const QString text = list.value(list.size() == parts ? p : 0);
          out[p] = parse_quantity(text.toStdString(), unit, name.toStdString());
          if (!(std::abs(out[p]) <= most))
            throw shot_fault(name.toStdString(), "is far too much.", "Choose less.");
        }
        return out;
      };
      track.wobble.amount = read(amount, about.unit, about.high - about.low, tr("Wobbles by"));
      track.wobble.rate = read(rate, Unit::rate, 1000, tr("Times a second"));
      track.wobble.seed =
          int(std::clamp(parse_quantity(seed->text().toStdString(), Unit::none, "Seed"), 0.0, 1e9));
      set_track(s, path, track);
    });
    menu->close();
  };
  for (QLineEdit* field : {amount, rate, seed}) connect(field, &QLineEdit::returnPressed, this, done);
  auto* action = new QWidgetAction(menu);
  action->setDefaultWidget(box);
  menu->addAction(action);
  menu->popup(at);
  amount->setFocus(), amount->selectAll();
}

void TimeStrip::fill_key_menu(QMenu& menu, const Hit& h) {
  if (!selected_.contains({h.path, h.time})) selected_ = {{h.path, h.time}};
  const Setting about = find_setting(document_.shot(), h.path);
  if (can_mix(about.value))
    for (int e = 0; e < 4; ++e)
      menu.addAction(tr(ease_names[e].label), this, [this, e] {
        before_ = document_.shot(), selected_before_ = selected_;
        edit_tracks(tr("Ease"), [&](Track& track, const std::string& path) {
          for (Key& k : track.keys)
            if (selected_before_.contains({path, k.time})) k.ease = Ease(e);
        });
      });
  menu.addSeparator();
  menu.addAction(tr("Frame and value …"), this, [this, h] { edit_key({h.path, h.time}, QCursor::pos()); });
  menu.addAction(tr("Remove"), this, &TimeStrip::remove_selected);
}

void TimeStrip::fill_track_menu(QMenu& menu, const std::string& path) {
  const Setting about = find_setting(document_.shot(), path);
  const auto change = [this, path](const QString& what, const std::function<void(Track&)>& f) {
    document_.edit(what, [&](Shot& s) {
      Track track = *find_track(s, path);
      f(track);
      set_track(s, path, track);
    });
  };
  for (const bool after : {false, true}) {
    QMenu* beyond = menu.addMenu(after ? tr("After the last key") : tr("Before the first key"));
    for (int b = 0; b < 4; ++b) {
      QAction* a = beyond->addAction(tr(beyond_names[b].label), this, [change, after, b] {
        change(tr("Beyond the keys"), [&](Track& t) { (after ? t.after : t.before) = Beyond(b); });
      });
      a->setCheckable(true);
      a->setChecked(int(after ? about.track->after : about.track->before) == b);
    }
  }
  if (can_mix(about.value))
    menu.addAction(tr("Wobble …"), this, [this, path] { edit_wobble(path, QCursor::pos()); });
  menu.addAction(tr("Key at the playhead"), this, [this, path] {
    document_.edit(tr("Add a key"), [&](Shot& s) {
      change_value(s, path, value_at(s, path, document_.frame()), document_.frame());
    });
  });
  menu.addAction(tr("Taller or lower"), this, [this, path] { tall_[path] = !tall_[path], update(); });
  menu.addAction(tr("Stop to animate it"), this, [this, path] {
    document_.edit(tr("Stop to animate"), [&](Shot& s) { stop_animating(s, path, document_.frame()); });
  });
}

void TimeStrip::fill_pour_menu(QMenu& menu, const Hit& h, double frame) {
  const std::string pour = id_in(h.path);
  const bool on_window = h.grip == Grip::first || h.grip == Grip::last || h.grip == Grip::whole;
  if (on_window) {
    menu.addAction(tr("Split here"), this, [this, pour, h, frame] {
      document_.edit(tr("Split a pour window"),
                     [&](Shot& s) { split_window(s, pour, h.window, std::round(frame)); });
    });
    menu.addAction(tr("Remove this window"), this, [this, pour, h] {
      document_.edit(tr("Remove a pour window"), [&](Shot& s) {
        auto& list = s.pour(pour)->windows.list;
        if (h.window < list.size()) list.erase(list.begin() + std::ptrdiff_t(h.window));
      });
    });
  } else {
    menu.addAction(tr("Pour here"), this, [this, pour, frame] {
      document_.edit(tr("Add a pour window"), [&](Shot& s) {
        add_window(s, pour, {int(frame), int(frame) + 11});
      });
    });
  }
  menu.addAction(tr("Fill its source at this frame"), this, [this, pour, frame] {
    document_.edit(tr("Fill"), [&](Shot& s) {
      s.pour(pour)->fill_at.time = Clock(s).time(std::max(1.0, std::round(frame)));
    });
  });
}

void TimeStrip::contextMenuEvent(QContextMenuEvent* e) {
  const Hit h = hit(e->pos());
  const auto all = lanes();
  const Lane* lane = lane_at(all, e->pos());
  if (!lane || lane->kind == Lane::Kind::run) return;
  QMenu menu(this);
  if (lane->kind == Lane::Kind::pour)
    fill_pour_menu(menu, h.path.empty() ? Hit{Grip::playhead, lane->path, 0, 0, 0} : h,
                   e->pos().x() < left_width ? document_.frame() : scale().frame_at(e->pos().x()));
  else if (h.grip == Grip::key)
    fill_key_menu(menu, h);
  else
    fill_track_menu(menu, lane->path);
  menu.exec(e->globalPos());
}
