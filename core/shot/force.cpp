#include "shot/force.h"

#include <algorithm>
#include <array>
#include <numbers>

#include "shot/shot.h"

namespace pour {
namespace {

constexpr size_t kind_count = std::variant_size_v<ForceKind>;
using Kinds = std::make_index_sequence<kind_count>;

constexpr Option at_times[] = {{"no", "in windows"}, {"yes", "all the time"}};
constexpr Option into_vessels[] = {{"no", "stays out of vessels"}, {"yes", "acts within vessels"}};
constexpr Option shapes[] = {{"everywhere", "everywhere"},
                             {"ball", "a ball"},
                             {"box", "a box"},
                             {"slab", "a slab"},
                             {"piece", "a piece"}};
constexpr Option sides[] = {{"inside", "inside"}, {"outside", "outside"}};

template <Reach::Shape... shape>
bool reaches(const Force& f) {
  return ((f.reach == shape) || ...);
}
bool has_edge(const Force& f) { return f.reach != Reach::Shape::everywhere; }

bool can_act(const Shot& shot, const Force& f) {
  return moves_liquid(f) || shot.brings(FlowKind::gas) || !shot.brings(FlowKind::liquid);
}

}  // namespace

std::span<const Option> force_kinds() {
  static const auto all = []<size_t... i>(std::index_sequence<i...>) {
    return std::array<Option, kind_count>{std::variant_alternative_t<i, ForceKind>::kind...};
  }
  (Kinds());
  return all;
}

Force new_force(int kind) {
  Force out{.id = force_kinds()[size_t(kind)].key, .name = force_kinds()[size_t(kind)].label};
  [&]<size_t... i>(std::index_sequence<i...>) {
    (void)((int(i) == kind && (out.what.emplace<i>(), true)) || ...);
  }
  (Kinds());
  out.inside = std::visit([](const auto& own) { return own.goes_inside; }, out.what);
  return out;
}

double share_of_time(const Force& f, double from, double to) {
  if (f.always) return 1;
  double sum = 0;
  for (const Span& w : f.windows.list) {
    if (to <= from && w.from <= from + same_time && from + same_time < w.to) return 1;
    sum += std::max(0.0, std::min(to, w.to) - std::max(from, w.from));
  }
  return to > from ? std::min(1.0, sum / (to - from)) : 0;
}

bool acts_on(const Force& f, const std::string& fluid) {
  return f.acts_on.ids.empty() || f.acts_on.has(fluid);
}

bool acts_on_smoke(const Shot& shot, const Force& f) {
  return f.acts_on.ids.empty() ||
         std::any_of(shot.fluids.begin(), shot.fluids.end(),
                     [&](const Fluid& fluid) { return fluid.as<Smoke>() && f.acts_on.has(fluid.id); });
}

bool acts_on_all(const Force& f) {
  return f.acts_on.ids.empty() && f.inside && f.reach == Reach::Shape::everywhere &&
         f.depends.driver == Driver::none;
}

std::shared_ptr<const Field> field_of(const Force& f, const SetAround& set) {
  return std::visit(
      [&](const auto& kind) -> std::shared_ptr<const Field> {
        if constexpr (requires { kind.field(set); }) return kind.field(set);
        return nullptr;
      },
      f.what);
}

std::shared_ptr<const Sharing> sharing_of(const Force& f, const SetAround& set, int number) {
  const auto* gather = f.as<Gather>();
  return gather ? gather->sharing(set, number) : nullptr;
}

std::vector<PieceId> pieces_of(const Force& f) {
  std::vector<PieceId> out;
  if (f.reach == Reach::Shape::piece) out.push_back(f.reach_piece);
  std::visit(
      [&](const auto& kind) {
        if constexpr (requires { kind.goes_by(); })
          if (const PieceId* piece = kind.goes_by()) out.push_back(*piece);
      },
      f.what);
  return out;
}

bool go_without(Force& f) {
  if (f.reach == Reach::Shape::piece) f.reach = Reach::Shape::everywhere;
  std::visit(
      [](auto& kind) {
        if constexpr (requires { kind.go_without(); }) kind.go_without();
      },
      f.what);
  return pieces_of(f).empty();
}

Vec3d* direction_of(Force& f) {
  return std::visit(
      [](auto& kind) -> Vec3d* {
        if constexpr (requires { kind.pointing(); }) return kind.pointing();
        return nullptr;
      },
      f.what);
}

Vec3d* place_of(Force& f) {
  return std::visit(
      [](auto& kind) -> Vec3d* {
        if constexpr (requires { kind.place(); }) return kind.place();
        return nullptr;
      },
      f.what);
}

std::vector<Curve> curves_of(const Force& f) {
  const auto* current = f.as<Current>();
  std::vector<Curve> out;
  if (!current) return out;
  for (const Rotation& turn : current->turns()) {
    Points points = current->points;
    for (Vec3d& p : points.list) p = turn * (p - current->position) + current->position;
    out.emplace_back(points.list, current->closed, points.sizes);
  }
  return out;
}

void weaken(Force& f, double by) {
  std::visit(
      [&](auto& kind) {
        if constexpr (requires { kind.weaken(by); }) kind.weaken(by);
      },
      f.what);
}

Strength strength_of(const Force& f, const SetAround& set) {
  Reach out{.shape = f.reach, .outside = f.reach_outside, .edge = f.soft_edge, .profile = f.edge_profile};
  if (f.reach == Reach::Shape::piece) {
    out.piece = set.piece(f.reach_piece.id, out.pose);
  } else {
    out.pose.turn = Rotation::euler(f.reach_turn), out.pose.position = f.reach_position;
    out.half = f.reach == Reach::Shape::box ? f.reach_size * 0.5
                                            : Vec3d{f.reach_radius, f.reach_thickness / 2, f.reach_radius};
  }
  return {out, f.depends};
}

bool moves_liquid(const Force& f) {
  return std::visit([](const auto& kind) { return kind.moves_liquid; }, f.what);
}

std::vector<Force> usual_forces() {
  std::vector<Force> out;
  first_of<Gravity>(out), first_of<Turbulence>(out), first_of<Confinement>(out);
  return out;
}

double gravity_of(const std::vector<Force>& forces) {
  double sum = 0;
  for (const Force& f : forces)
    if (const auto* g = f.as<Gravity>()) sum += g->strength;
  return sum;
}

std::string force_path_now(const std::string& path) {
  static constexpr std::pair<const char*, const char*> all[] = {
      {"forces.gravity", "forces.gravity.strength"},
      {"forces.turbulence_speed", "forces.turbulence.speed"},
      {"forces.turbulence_size", "forces.turbulence.size"},
      {"forces.turbulence_rate", "forces.turbulence.rate"},
      {"forces.confinement_speed", "forces.confinement.speed"},
      {"forces.confinement_size", "forces.confinement.size"},
      {"forces.confinement_length", "forces.confinement.size"}};
  for (const auto& [was, is] : all)
    if (path == was) return is;
  return {};
}

template <>
const Table<Force>& table() {
  static const Table<Force> rows = [] {
    using F = Force;
    using enum Reach::Shape;
    constexpr double degree = std::numbers::pi / 180;
    TableOf<F> b;
    b.touching(Touches::name).add(&F::name, "name", "Name", "Name of the force.");
    b.touching(Touches::flow)
        .add<Choice>(
            "kind", "Kind", "What the force does.", [](const F& f) { return Choice{int(f.what.index())}; },
            [](F& f, const Choice& c) {
              if (size_t(c.index) == f.what.index()) return;
              f.what = new_force(c.index).what;
              drop_lost_tracks(f, settings_of(f));
            })
        .words(force_kinds())
        .fixed()
        .add(&F::acts_on, "acts_on", "Acts on", "Fluids that the force acts on. All smokes move as one.")
        .fixed()
        .more()
        .add(&F::always, "always", "Always", "Acts all the time, or only within windows.")
        .words(at_times)
        .fixed()
        .more()
        .add(&F::windows, "windows", "Windows", Unit::time, {0, 1e5, 0, 10},
             "When the force acts: the first and last film frame of each window, or times: 0.5s-2s.")
        .where([](const F& f) { return !f.always; })
        .more()
        .add(
            &F::depends, "depends_on", "Depends on",
            "Multiplies the strength by a curve over age, height, speed, distance, density or warmth: points "
            "as “age: 0 s, 0 %; 2 s, 100 %”.")
        .fixed()
        .more()
        .add(&F::inside, "inside_vessels", "Inside vessels", "Acts through glass on what a piece holds.")
        .words(into_vessels)
        .fixed()
        .more()
        .add(&F::reach, shapes, "reach", "Reach", "Where the force acts.")
        .fixed()
        .more()
        .add<Choice>(
            "reach_side", "Reach side", "Acts inside of the shape, or everywhere but there.",
            [](const F& f) { return Choice{int(f.reach_outside)}; },
            [](F& f, const Choice& c) { f.reach_outside = c.index == 1; })
        .words(sides)
        .where(has_edge)
        .fixed()
        .more()
        .add(&F::reach_piece, "reach_piece", "Reach piece",
             "Piece whose body bounds the force; it moves with the piece.")
        .where(reaches<piece>)
        .fixed()
        .more()
        .add(&F::reach_position, "reach_position", "Reach position", Unit::length, {-1e4, 1e4, -1, 1},
             "Centre of the shape: right, up and towards the camera.")
        .where(reaches<ball, box, slab>)
        .more()
        .add(&F::reach_turn, "reach_turn", "Reach turn", Unit::angle,
             {-36000 * degree, 36000 * degree, -180 * degree, 180 * degree},
             "Rotation of the shape about the x, y and z axes. A slab lies flat at 0.")
        .where(reaches<box, slab>)
        .more()
        .add(&F::reach_size, "reach_size", "Reach size", Unit::length, {1e-4, 1e4, 0.01, 1},
             "Width, height and depth of the box.")
        .where(reaches<box>)
        .more()
        .add(&F::reach_radius, "reach_radius", "Reach radius", Unit::length, {1e-4, 1e4, 0.005, 1},
             "Radius of the ball.")
        .where(reaches<ball>)
        .more()
        .add(&F::reach_thickness, "reach_thickness", "Reach thickness", Unit::length, {1e-4, 1e4, 0.005, 1},
             "Thickness of the slab.")
        .where(reaches<slab>)
        .more()
        .add(&F::soft_edge, "soft_edge", "Soft edge", Unit::length, {0, 1e3, 0, 0.2},
             "Width over which the force fades at the edge of its reach.")
        .zero("sharp")
        .where(has_edge)
        .more()
        .add(&F::edge_profile, "edge_profile", "Edge profile", Unit::none, {0.1, 10, 0.25, 4},
             "Shape of the soft edge: 1 is even, more keeps the force to the middle.")
        .where(has_edge)
        .more();
    return b.done();
  }();
  return rows;
}

const Table<Force>& settings_of(const Force& force) {
  static const auto all = []<size_t... i>(std::index_sequence<i...>) {
    std::vector<Table<Force>> out{as_settings_of<Force, std::variant_alternative_t<i, ForceKind>>(
        &Force::what, std::variant_alternative_t<i, ForceKind>::settings())...};
    for (Table<Force>& rows : out) {
      // After name and kind.
      const auto& common = table<Force>();
      rows.insert(rows.begin(), common.begin(), common.begin() + 2);
      rows.insert(rows.end(), common.begin() + 2, common.end());
      for (Row<Force>& row : rows) row.fits = can_act;
    }
    return out;
  }
  (Kinds());
  return all[force.what.index()];
}

}  // namespace pour
