#include "shot/animate.h"

#include <algorithm>
#include <cmath>

#include "base/error.h"
#include "shot/edit.h"
#include "shot/items.h"
#include "shot/out_of_range.h"

namespace pour {

Shot shot_at(const Shot& shot, const Clock& clock, double time) {
  Shot out = shot;
  const double film_time = clock.film_time(clock.film_frame(time));
  each_item(out, [&](const ItemPlace&, auto& item) {
    if (item.tracks.empty()) return;
    for (const auto& row : settings_of(std::as_const(item)))
      if (const auto track = item.tracks.find(row.key); track != item.tracks.end())
        row.set(item, evaluate(row.about(shot, item), track->second, on_film(row) ? film_time : time));
    item.tracks.clear();
  });
  for (Piece& p : out.pieces) {
    p.turn += p.spin * time, p.spin = {};
    if (has_turned(shot, p, time)) p.blocks = p.shows = false;
  }
  return out;
}

std::optional<double> turns_at(const Shot& shot, const Piece& piece) {
  std::optional<double> out;
  if (piece.holds) return out;
  for (const Pour& p : shot.pours)
    if (p.from == SourceKind::piece && p.source.id == piece.id && p.replaces_source && p.fill_at.time)
      out = std::min(out.value_or(1e300), *p.fill_at.time);
  return out;
}

bool has_turned(const Shot& shot, const Piece& piece, double time) {
  const std::optional<double> turns = turns_at(shot, piece);
  return turns && time > *turns - 1e-6;
}

namespace {

bool moves(const Shot& shot, const Piece& piece, size_t depth) {
  if (depth > shot.pieces.size()) return false;
  if (!(piece.spin == Vec3d{})) return true;
  for (const Row<Piece>& row : settings_of(piece))
    if (row.touches == Touches::pose && piece.tracks.contains(row.key)) return true;
  for (const std::string& id : {piece.parent.id, piece.path.id})
    if (const Piece* other = id.empty() ? nullptr : shot.piece(id); other && moves(shot, *other, depth + 1))
      return true;
  return false;
}

}  // namespace

bool moves(const Shot& shot, const Piece& piece) { return moves(shot, piece, 0); }

const Track* find_track(const Shot& shot, const std::string& path) {
  const Track* out = nullptr;
  with_setting(shot, path, [&](const auto& item, const auto& row) {
    if (const auto t = item.tracks.find(row.key); t != item.tracks.end()) out = &t->second;
  });
  return out;
}

void set_track(Shot& shot, const std::string& path, const std::optional<Track>& track) {
  std::vector<std::string> settled;
  with_setting(shot, path, [&](auto& item, const auto& row) {
    if (!track || track->keys.empty()) {
      item.tracks.erase(row.key);
      return;
    }
    if (!can_animate(row, row.get(item)))
      throw shot_fault(path, "can't change within a shot.", "It is settled before a run begins.");
    Track next = *track;
    for (Key& k : next.keys) k.value = accepted(row, k.value, path);
    Track& now = item.tracks[row.key];
    for (const Key& k : now.keys)
      if (const Key* same = next.key_at(k.time); !same || !(same->value == k.value))
        settled.push_back(key_path(path, k.time));
    now = std::move(next);
  });
  if (settled.empty() && !find_track(shot, path)) settled.push_back(path);
  for (const std::string& key : settled) settle_range(shot, key);
}

void change_value(Shot& shot, const std::string& path, const Value& value, double film_frame) {
  constexpr std::string_view list = "pieces.";
  const size_t dot = path.rfind('.');
  if (path.starts_with(list) && find_setting(shot, path).key == std::string_view("attached_to")) {
    set_parent(shot, path.substr(list.size(), dot - list.size()), std::get<PieceId>(value).id);
    return;
  }
  if (const auto* material = std::get_if<MaterialId>(&value)) {
    make_of(shot, path.substr(0, dot), material->id);
    return;
  }
  if (const Track* track = find_track(shot, path)) {
    Track changed = *track;
    changed.set_key(Clock(shot).key_time(find_setting(shot, path), film_frame), value);
    set_track(shot, path, changed);
  } else {
    set_value(shot, path, value);
  }
}

Value value_at(const Shot& shot, const std::string& path, double film_frame) {
  if (!find_track(shot, path)) return find_setting(shot, path).value;
  return find_setting(shot_at(shot, film_frame), path).value;
}

std::vector<std::string> animated_paths(const Shot& shot) {
  std::vector<std::string> out;
  each_item(shot, [&](const ItemPlace& place, const auto& item) {
    for (const auto& row : settings_of(item))
      if (item.tracks.contains(row.key)) out.push_back(place.path() + "." + row.key);
  });
  return out;
}

}  // namespace pour
