#include "shape/svg.h"

#include <cmath>
#include <cstring>
#include <functional>
#include <numbers>
#include <optional>
#include <set>
#include <sstream>

#include "base/error.h"
#include "base/text.h"
#include "shape/clipped.h"
#include "shape/svg_path.h"
#include "shape/svg_style.h"

namespace pour {
namespace {

namespace cl = ClipperLib;

constexpr size_t most_elements = 20000;  // that are drawn, those that are used again each time
constexpr size_t most_bytes = 16 << 20;
constexpr double whole_numbers = 1 << 24;  // across a drawing
constexpr double fineness = 1.0 / 6000;    // of the drawing, by which curves may be off
constexpr double seen = 0.02;              // less opaque than this is not there

using Rings = std::vector<std::vector<Vec3d>>;

/// The outline of a stroke: a rectangle for each of its lines, and what is put where they meet and end; all
/// of it goes round the same way, so that united it is the stroke (SVG 2, §13.7).
class Stroker {
 public:
  Stroker(const SvgStyle& style, double tolerance)
      : style_(style), r_(style.stroke_width / 2), tolerance_(tolerance) {}

  Rings of(const Polyline& given) {
    Polyline line = given;
    const auto same = [](const Vec3d& a, const Vec3d& b) { return length(a - b) < 1e-12; };
    line.points.erase(std::unique(line.points.begin(), line.points.end(), same), line.points.end());
    if (line.closed && line.points.size() > 1 && same(line.points.front(), line.points.back()))
      line.points.pop_back();
    if (style_.dashes.empty())
      draw(line);
    else
      for (const Polyline& dash : dashes(line)) draw(dash);
    return std::move(out_);
  }

 private:
  void put(std::vector<Vec3d> ring) {
    double twice = 0;
    for (size_t i = 0; i < ring.size(); ++i) twice += cross(ring[i], ring[(i + 1) % ring.size()]).z;
    if (twice < 0) std::reverse(ring.begin(), ring.end());
    out_.push_back(std::move(ring));
  }
  void disc(const Vec3d& at) {
    const int n = std::clamp(int(std::ceil(2 * std::numbers::pi * std::sqrt(r_ / (8 * tolerance_)))), 8, 400);
    std::vector<Vec3d> ring;
    for (int i = 0; i < n; ++i) {
      const double a = 2 * std::numbers::pi * i / n;
      ring.push_back(at + Vec3d{r_ * std::cos(a), r_ * std::sin(a), 0});
    }
    put(std::move(ring));
  }
  void join(const Vec3d& before, const Vec3d& at, const Vec3d& after) {
    const Vec3d a = normalized(at - before), b = normalized(after - at);
    const double turn = cross(a, b).z, straight = dot(a, b);
    if (std::abs(turn) < 1e-9 && straight > 0) return;
    if (style_.join == LineJoin::round) return disc(at);
    const double side = turn > 0 ? -1 : 1;
    const Vec3d p = at + Vec3d{-a.y, a.x, 0} * (side * r_), q = at + Vec3d{-b.y, b.x, 0} * (side * r_);
    // Miter length by stroke width is 1 / sin(half the angle between the lines).
    const double sine = std::sqrt(std::max(0.0, (1 - straight) / 2)),
                 half = std::sqrt(std::max(0.0, (1 + straight) / 2));
    if (style_.join == LineJoin::miter && half > 1e-9 && 1 / half <= style_.miter_limit)
      put({at, p, p + a * (r_ * sine / half), q});
    else
      put({at, p, q});
  }
  void cap(const Vec3d& at, const Vec3d& outwards) {
    if (style_.cap == LineCap::round) disc(at);
    if (style_.cap != LineCap::square) return;
    const Vec3d side{-outwards.y * r_, outwards.x * r_, 0};
    put({at + side, at - side, at - side + outwards * r_, at + side + outwards * r_});
  }
  void draw(const Polyline& line) {
    const auto& p = line.points;
    if (p.size() == 1) {  // a dot, where its ends have a shape
      if (style_.cap == LineCap::round) disc(p[0]);
      if (style_.cap == LineCap::square) cap(p[0], {1, 0, 0}), cap(p[0], {-1, 0, 0});
      return;
    }
    const size_t n = p.size(), lines = line.closed ? n : n - 1;
    for (size_t i = 0; i < lines; ++i) {
      const Vec3d a = p[i], b = p[(i + 1) % n], along = normalized(b - a),
                  side{-along.y * r_, along.x * r_, 0};
      put({a + side, a - side, b - side, b + side});
      if (i + 1 < lines || line.closed) join(a, b, p[(i + 2) % n]);
    }
    if (line.closed) return;
    cap(p.front(), normalized(p.front() - p[1]));
    cap(p.back(), normalized(p.back() - p[n - 2]));
  }
  std::vector<Polyline> dashes(const Polyline& line) const {
    std::vector<Polyline> out;
    double sum = 0;
    for (const double d : style_.dashes) sum += d;
    size_t k = 0;
    double left = std::fmod(style_.dash_offset, sum);
    if (left < 0) left += sum;
    while (left >= style_.dashes[k]) left -= style_.dashes[k], k = (k + 1) % style_.dashes.size();
    left = style_.dashes[k] - left;
    const size_t n = line.points.size(), lines = line.closed ? n : n - 1;
    if (k % 2 == 0) out.push_back({{line.points[0]}});
    for (size_t i = 0; i < lines; ++i) {
      const Vec3d a = line.points[i], b = line.points[(i + 1) % n];
      const double whole = length(b - a);
      double at = 0;
      while (at + left < whole && out.size() < most_elements) {
        at += left;
        const Vec3d p = a + (b - a) * (at / whole);
        if (k % 2 == 0)
          out.back().points.push_back(p);
        else
          out.push_back({{p}});
        k = (k + 1) % style_.dashes.size(), left = style_.dashes[k];
        if (left <= 0) left = 1e-9 * sum;
      }
      left -= whole - at;
      if (k % 2 == 0) out.back().points.push_back(b);
    }
    return out;
  }

  const SvgStyle& style_;
  double r_, tolerance_;
  Rings out_;
};

/// Rectangles that share an edge are united up to a seam without width; this closes it.
void close_seams(cl::Paths& paths) {
  constexpr double seam = whole_numbers * 2e-5;
  for (const double by : {seam, -seam}) {
    cl::ClipperOffset offset;
    offset.AddPaths(paths, cl::jtMiter, cl::etClosedPolygon);
    offset.Execute(paths, by);
  }
}

/// Goes through a document and paints.
class Painter {
 public:
  Painter(const pugi::xml_document& doc, const std::string& where) : where_(where), doc_(doc) {}

  /// The lines of all that it painted.
  std::vector<Polyline> lines() { return std::move(lines_); }

  SvgDrawing paint() {
    const pugi::xml_node root = doc_.document_element();
    const auto box = parse_numbers(root.attribute("viewBox").value());
    const double w = svg_length(root.attribute("width").value(), 0, 0),
                 h = svg_length(root.attribute("height").value(), 0, 0);
    size_ = box.size() == 4 && box[2] > 0 && box[3] > 0 ? std::max(box[2], box[3]) : std::max(w, h);
    if (!(size_ > 0) || !std::isfinite(size_)) size_ = 100;
    wide_ = box.size() == 4 ? box[2] : w, high_ = box.size() == 4 ? box[3] : h;
    styles_.emplace(doc_, wide_, high_);
    children(root, styles_->of(root, {}, size_), {}, 0);
    out_.left_out.assign(left_out_.begin(), left_out_.end());
    return std::move(out_);
  }

 private:
  void children(const pugi::xml_node& of, const SvgStyle& style, const Affine& place, int depth) {
    for (const pugi::xml_node& n : of.children())
      if (n.type() == pugi::node_element) element(n, style, place, depth);
  }

  void element(const pugi::xml_node& n, const SvgStyle& outer, const Affine& outer_place, int depth) {
    std::string name = n.name();
    if (const size_t colon = name.find(':'); colon != std::string::npos)
      name = name.substr(0, colon) == "svg" ? name.substr(colon + 1) : "";  // of another language
    static const std::set<std::string> quiet{"",
                                             "defs",
                                             "style",
                                             "title",
                                             "desc",
                                             "metadata",
                                             "symbol",
                                             "marker",
                                             "clipPath",
                                             "mask",
                                             "filter",
                                             "linearGradient",
                                             "radialGradient",
                                             "pattern",
                                             "script",
                                             "view",
                                             "animate",
                                             "animateTransform",
                                             "set"};
    if (quiet.contains(name)) return;
    if (++elements_ > most_elements || depth > 64)
      throw shot_fault(where_, depth > 64 ? "is nested too deeply." : "draws more than 20,000 shapes.",
                       "Simplify it.");
    const SvgStyle style = styles_->of(n, outer, size_);
    if (std::strcmp(n.attribute("display").value(), "none") == 0) return;
    if (name != "svg" && name != "g" && name != "use" && name != "switch" && name != "a" && !style.shown)
      return;
    for (const char* not_done : {"clip-path", "mask", "filter"})
      if (const auto a = n.attribute(not_done); a && std::strcmp(a.value(), "none") != 0)
        left_out_.insert(not_done);
    const Affine place = outer_place * parse_transform(n.attribute("transform").value());
    if (name == "g" || name == "a" || name == "switch") {
      children(n, style, place, depth + 1);
    } else if (name == "svg") {
      children(n, style,
               place * framed(n, length_of(n, "width", wide_, wide_), length_of(n, "height", high_, high_)),
               depth + 1);
    } else if (name == "use") {
      use(n, style, place, depth);
    } else if (std::vector<Polyline> lines;
               shape(n, name, fineness * size_ / std::max(1e-9, place.scale()), lines)) {
      draw(lines, style, place);
      for (Polyline& line : lines) {
        for (Vec3d& p : line.points) p = place * p;
        lines_.push_back(std::move(line));
      }
    } else {
      left_out_.insert(name);
    }
  }

  static double length_of(const pugi::xml_node& n, const char* key, double whole, double otherwise) {
    return svg_length(n.attribute(key).value(), whole, otherwise);
  }

  /// Transform from a nested drawing or symbol to its parent.
  Affine framed(const pugi::xml_node& n, double w, double h) const {
    const double x = length_of(n, "x", wide_, 0), y = length_of(n, "y", high_, 0);
    const auto box = parse_numbers(n.attribute("viewBox").value());
    if (box.size() != 4 || !(box[2] > 0) || !(box[3] > 0)) return {1, 0, 0, 1, x, y};
    const double sx = w / box[2], sy = h / box[3], s = std::min(sx, sy);
    if (std::strncmp(n.attribute("preserveAspectRatio").value(), "none", 4) == 0)
      return {sx, 0, 0, sy, x - box[0] * sx, y - box[1] * sy};
    return {s, 0, 0, s, x - box[0] * s + (w - box[2] * s) / 2, y - box[1] * s + (h - box[3] * s) / 2};
  }

  void use(const pugi::xml_node& n, const SvgStyle& style, const Affine& place, int depth) {
    const char* href = n.attribute("href") ? n.attribute("href").value() : n.attribute("xlink:href").value();
    if (*href != '#') {
      left_out_.insert("use of another file");
      return;
    }
    const pugi::xml_node what = doc_.find_node(
        [&](const pugi::xml_node& c) { return std::strcmp(c.attribute("id").value(), href + 1) == 0; });
    if (!what) return;
    const Affine at = place * Affine{1, 0, 0, 1, length_of(n, "x", wide_, 0), length_of(n, "y", high_, 0)};
    if (std::strcmp(what.name(), "symbol") == 0) {
      const auto box = parse_numbers(what.attribute("viewBox").value());
      const double w = length_of(n, "width", wide_, box.size() == 4 ? box[2] : wide_),
                   h = length_of(n, "height", high_, box.size() == 4 ? box[3] : high_);
      children(what, styles_->of(what, style, size_), at * framed(what, w, h), depth + 1);
    } else {
      element(what, style, at, depth + 1);
    }
  }

  /// Lines of a path or basic shape; false for other elements.
  bool shape(const pugi::xml_node& n, const std::string& name, double tolerance,
             std::vector<Polyline>& out) const {
    const auto x = [&](const char* key) { return length_of(n, key, wide_, 0); };
    const auto y = [&](const char* key) { return length_of(n, key, high_, 0); };
    const auto ellipse = [&](double cx, double cy, double rx, double ry) {
      if (!(rx > 0) || !(ry > 0)) return;
      const int count = std::clamp(
          int(std::ceil(2 * std::numbers::pi * std::sqrt(std::max(rx, ry) / (8 * tolerance)))), 8, 4000);
      Polyline line{{}, true};
      for (int i = 0; i < count; ++i) {
        const double a = 2 * std::numbers::pi * i / count;
        line.points.push_back({cx + rx * std::cos(a), cy + ry * std::sin(a), 0});
      }
      out.push_back(std::move(line));
    };
    if (name == "path") {
      out = parse_path(n.attribute("d").value(), tolerance);
    } else if (name == "rect") {
      rectangle(n, x("x"), y("y"), x("width"), y("height"), tolerance, out);
    } else if (name == "circle") {
      const double r = length_of(n, "r", size_, 0);
      ellipse(x("cx"), y("cy"), r, r);
    } else if (name == "ellipse") {
      ellipse(x("cx"), y("cy"), x("rx"), y("ry"));
    } else if (name == "line") {
      out.push_back({{{x("x1"), y("y1"), 0}, {x("x2"), y("y2"), 0}}});
    } else if (name == "polyline" || name == "polygon") {
      Polyline line{{}, name == "polygon"};
      const auto v = parse_numbers(n.attribute("points").value());
      for (size_t i = 0; i + 1 < v.size(); i += 2) line.points.push_back({v[i], v[i + 1], 0});
      if (!line.points.empty()) out.push_back(std::move(line));
    } else {
      return false;
    }
    return true;
  }

  void rectangle(const pugi::xml_node& n, double x, double y, double w, double h, double tolerance,
                 std::vector<Polyline>& out) const {
    if (!(w > 0) || !(h > 0)) return;
    double rx = length_of(n, "rx", wide_, -1), ry = length_of(n, "ry", high_, -1);
    if (rx < 0) rx = ry;
    if (ry < 0) ry = rx;
    rx = std::clamp(rx, 0.0, w / 2), ry = std::clamp(ry, 0.0, h / 2);
    if (rx <= 0 || ry <= 0) {
      out.push_back({{{x, y, 0}, {x + w, y, 0}, {x + w, y + h, 0}, {x, y + h, 0}}, true});
      return;
    }
    std::ostringstream d;
    d.precision(12);
    const auto corner = [&](double to_x, double to_y) {
      d << 'A' << rx << ' ' << ry << " 0 0 1 " << to_x << ' ' << to_y;
    };
    d << 'M' << x + rx << ' ' << y << 'H' << x + w - rx;
    corner(x + w, y + ry);
    d << 'V' << y + h - ry;
    corner(x + w - rx, y + h);
    d << 'H' << x + rx;
    corner(x, y + h - ry);
    d << 'V' << y + ry;
    corner(x + rx, y);
    d << 'Z';
    out = parse_path(d.str(), tolerance);
  }

  void draw(const std::vector<Polyline>& lines, const SvgStyle& style, const Affine& place) {
    Box bounds;  // of what is drawn, without its stroke
    for (const Polyline& l : lines)
      for (const Vec3d& p : l.points) bounds.add(p);
    if (style.fill && style.opacity * style.fill_opacity > seen) {
      Rings rings;
      for (const Polyline& l : lines)
        if (l.points.size() > 2) rings.push_back(l.points);
      add(rings, bounds, *style.fill, place, style.even_odd);
    }
    if (style.stroke && style.stroke_width > 0 && style.opacity * style.stroke_opacity > seen) {
      Rings rings;
      const double tolerance = fineness * size_ / std::max(1e-9, place.scale());
      for (const Polyline& l : lines)
        for (auto& ring : Stroker(style, tolerance).of(l)) rings.push_back(std::move(ring));
      add(rings, bounds, *style.stroke, place, false);
    }
  }

  void add(const Rings& rings, const Box& bounds, const SvgPaint& paint, const Affine& place, bool even_odd) {
    const double unit = size_ / whole_numbers;
    cl::Paths paths;
    for (const auto& ring : rings) {
      cl::Path& path = paths.emplace_back();
      for (const Vec3d& p : ring) {
        const Vec3d q = place * p * (1 / unit);
        if (!(std::abs(q.x) < 1e15) || !(std::abs(q.y) < 1e15))
          throw shot_fault(where_, "has a point that is too far away.", "Draw it nearer to its middle.");
        path.emplace_back(cl::cInt(std::llround(q.x)), cl::cInt(std::llround(q.y)));
      }
    }
    refuse_tangles(paths, where_);
    cl::Clipper clipper;
    clipper.AddPaths(paths, cl::ptSubject, true);
    cl::Paths clear;
    const auto rule = even_odd ? cl::pftEvenOdd : cl::pftNonZero;
    clipper.Execute(cl::ctUnion, clear, rule, rule);
    if (!even_odd) close_seams(clear);
    PaintedShape shape{{}, paint.color, paint.gradient, {}};
    if (paint.gradient) shape.to_gradient = (place * paint.gradient->placed(bounds)).inverse();
    for (const cl::Path& path : clear) {
      shape.rings.emplace_back();
      for (const cl::IntPoint& p : path)
        shape.rings.back().push_back({double(p.X) * unit, double(p.Y) * unit, 0});
    }
    if (!shape.rings.empty()) out_.shapes.push_back(std::move(shape));
  }

  std::optional<SvgStyles> styles_;
  const std::string& where_;
  const pugi::xml_document& doc_;
  SvgDrawing out_;
  std::vector<Polyline> lines_;
  std::set<std::string> left_out_;
  double size_ = 100, wide_ = 0, high_ = 0;
  size_t elements_ = 0;
};

Box box_of(const SvgDrawing& d) {
  Box b;
  for (const PaintedShape& s : d.shapes)
    for (const auto& ring : s.rings)
      for (const Vec3d& p : ring) b.add(p);
  return b;
}

void load(pugi::xml_document& doc, const std::string& text, const std::string& where) {
  if (text.size() > most_bytes)
    throw shot_fault(where, "is larger than 16 MB.", "Simplify it, or leave its pictures out.");
  const auto result =
      doc.load_buffer(text.data(), text.size(), pugi::parse_default | pugi::parse_ws_pcdata_single);
  if (!result)
    throw shot_fault(
        where,
        filled("is no XML: {description} at byte {offset}.",
               {{"description", result.description()}, {"offset", std::to_string(result.offset)}}),
        "Save it as SVG again.");
  std::string root = doc.document_element().name();
  if (root.starts_with("svg:")) root = root.substr(4);
  if (root != "svg")
    throw shot_fault(where, filled("is no SVG: it begins with <{root}>.", {{"root", root}}),
                     "Choose an SVG file.");
}

}  // namespace

std::vector<Polyline> svg_lines(const std::string& text, const std::string& where) {
  pugi::xml_document doc;
  load(doc, text, where);
  Painter painter(doc, where);
  (void)painter.paint();
  return painter.lines();
}

SvgDrawing read_svg(const std::string& text, const std::string& where) {
  pugi::xml_document doc;
  load(doc, text, where);
  SvgDrawing out = Painter(doc, where).paint();
  if (out.shapes.empty()) {
    std::string left;
    for (const std::string& l : out.left_out) left += (left.empty() ? "" : ", ") + l;
    throw shot_fault(
        where,
        filled("has nothing that is filled or has a stroke{left}",
               {{"left", (left.empty() ? "." : filled("; left out: {left}.", {{"left", left}}))}}),
        "Turn text and effects into paths where it was drawn.");
  }
  return out;
}

Outline outline_of(const SvgDrawing& drawing, double height, const std::string& where) {
  const Box box = box_of(drawing);
  const double across = std::max(box.size().x, box.size().y);
  if (!(across > 0)) throw shot_fault(where, "has no size.", "Draw it larger.");
  const double unit = across / whole_numbers;
  const Vec3d middle = box.center();
  cl::Paths all;
  for (const PaintedShape& s : drawing.shapes) {
    cl::Clipper one;
    for (const auto& ring : s.rings) {
      cl::Path path;
      for (const Vec3d& p : ring)
        path.emplace_back(cl::cInt(std::llround((p.x - middle.x) / unit)),
                          cl::cInt(std::llround((middle.y - p.y) / unit)));
      one.AddPath(path, cl::ptSubject, true);
    }
    cl::Paths clear;
    one.Execute(cl::ctUnion, clear, cl::pftEvenOdd, cl::pftEvenOdd);
    all.insert(all.end(), clear.begin(), clear.end());
  }
  refuse_tangles(all, where);
  cl::Clipper unite;
  unite.StrictlySimple(true);
  unite.AddPaths(all, cl::ptSubject, true);
  cl::PolyTree tree;
  unite.Execute(cl::ctUnion, tree, cl::pftNonZero, cl::pftNonZero);
  const double metres = height / std::max(1e-30, box.size().y);
  Outline out = outline_from(tree, unit * metres, whole_numbers * 1e-5);
  // Specks that no tool could make.
  std::erase_if(out.parts, [&](const Outline::Part& p) { return p.area() < 1e-7 * height * height; });
  if (out.parts.empty()) throw shot_fault(where, "has no area.", "Give its lines a stroke, or fill it.");
  return out;
}

Vec3f ColorMap::at(double x, double y) const {
  const int i = std::clamp(int((x - low.x) / size.x * width), 0, width - 1),
            j = std::clamp(int((y - low.y) / size.y * height), 0, height - 1);
  return colors[size_t(j) * size_t(width) + size_t(i)];
}

ColorMap colors_of(const SvgDrawing& drawing, double height) {
  constexpr int longest = 768;
  const Box box = box_of(drawing);
  const double metres = height / box.size().y;
  ColorMap m;
  m.size = box.size() * metres, m.low = m.size * -0.5;
  const double cell = std::max(box.size().x, box.size().y) / longest;
  m.width = std::max(1, int(std::ceil(box.size().x / cell))),
  m.height = std::max(1, int(std::ceil(box.size().y / cell)));
  const size_t n = size_t(m.width) * size_t(m.height);
  m.colors.assign(n, {});
  std::vector<uint8_t> painted(n, 0);
  std::vector<double> cuts;
  for (const PaintedShape& s : drawing.shapes)
    for (int row = 0; row < m.height; ++row) {
      const double y = box.high.y - (row + 0.5) / m.height * box.size().y;  // rows from below, y downwards
      cuts.clear();
      for (const auto& ring : s.rings)
        for (size_t i = 0; i < ring.size(); ++i) {
          const Vec3d &a = ring[i], &b = ring[(i + 1) % ring.size()];
          if ((a.y > y) != (b.y > y)) cuts.push_back(a.x + (y - a.y) / (b.y - a.y) * (b.x - a.x));
        }
      std::sort(cuts.begin(), cuts.end());
      for (size_t k = 0; k + 1 < cuts.size(); k += 2) {
        const auto column = [&](double x) { return (x - box.low.x) / box.size().x * m.width - 0.5; };
        const int from = std::max(0, int(std::ceil(column(cuts[k])))),
                  to = std::min(m.width - 1, int(std::floor(column(cuts[k + 1]))));
        for (int x = from; x <= to; ++x) {
          const size_t i = size_t(row) * size_t(m.width) + size_t(x);
          m.colors[i] = s.color_at({box.low.x + (x + 0.5) / m.width * box.size().x, y, 0}), painted[i] = 1;
        }
      }
    }
  // Extends colours beyond the shape, ring by ring.
  for (int round = 0; round < 24; ++round) {
    const auto before = painted;
    for (int y = 0; y < m.height; ++y)
      for (int x = 0; x < m.width; ++x) {
        const size_t i = size_t(y) * size_t(m.width) + size_t(x);
        if (before[i]) continue;
        for (const auto& [dx, dy] : {std::pair{-1, 0}, {1, 0}, {0, -1}, {0, 1}}) {
          const int xx = x + dx, yy = y + dy;
          if (xx < 0 || yy < 0 || xx >= m.width || yy >= m.height) continue;
          const size_t j = size_t(yy) * size_t(m.width) + size_t(xx);
          if (before[j]) m.colors[i] = m.colors[j], painted[i] = 1;
        }
      }
  }
  return m;
}

}  // namespace pour
