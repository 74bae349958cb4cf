#include "shape/svg_path.h"

#include <cctype>
#include <charconv>
#include <cmath>
#include <numbers>
#include <string>
#include <utility>

namespace pour {
namespace {

using std::numbers::pi;
constexpr size_t most_points = 2000000;

/// Goes through a text of numbers.
class Scanner {
 public:
  explicit Scanner(std::string_view text) : rest_(text) {}

  void skip() {
    while (!rest_.empty() &&
           (std::isspace(static_cast<unsigned char>(rest_.front())) || rest_.front() == ','))
      rest_.remove_prefix(1);
  }
  bool end() {
    skip();
    return rest_.empty();
  }
  char peek() {
    skip();
    return rest_.empty() ? '\0' : rest_.front();
  }
  char take() {
    const char c = peek();
    if (c) rest_.remove_prefix(1);
    return c;
  }
  bool number(double& out) {
    skip();
    std::string_view text = rest_;
    if (!text.empty() && text.front() == '+') text.remove_prefix(1);
    const auto r = std::from_chars(text.data(), text.data() + text.size(), out);
    if (r.ec != std::errc() || !std::isfinite(out)) return false;
    rest_ = text.substr(size_t(r.ptr - text.data()));
    return true;
  }
  /// 0 or 1, which may stand right before the next number.
  bool flag(bool& out) {
    const char c = peek();
    if (c != '0' && c != '1') return false;
    rest_.remove_prefix(1);
    out = c == '1';
    return true;
  }
  std::string word() {
    skip();
    std::string out;
    while (!rest_.empty() && std::isalpha(static_cast<unsigned char>(rest_.front())))
      out += rest_.front(), rest_.remove_prefix(1);
    return out;
  }

 private:
  std::string_view rest_;
};

/// Converts path data to polylines.
class PathReader {
 public:
  PathReader(std::string_view data, double tolerance) : in_(data), tolerance_(tolerance) {}

  std::vector<Polyline> read() {
    char command = 0;
    while (!in_.end()) {
      const char c = in_.peek();
      if (std::isalpha(static_cast<unsigned char>(c)))
        command = in_.take();
      else if (command == 0 || command == 'Z' || command == 'z')
        break;
      if (out_.empty() && command != 'M' && command != 'm') break;
      if (points_ > most_points || !step(command)) break;
      // More numbers after a move are lines.
      if (command == 'M') command = 'L';
      if (command == 'm') command = 'l';
    }
    std::erase_if(out_, [](const Polyline& p) { return p.points.empty(); });
    return std::move(out_);
  }

 private:
  bool point(Vec3d& p, bool relative) {
    if (!in_.number(p.x) || !in_.number(p.y)) return false;
    if (relative) p += at_;
    return true;
  }
  void line(const Vec3d& to) {
    if (out_.back().closed) out_.push_back({{at_}});  // after Z a path goes on from its start
    out_.back().points.push_back(to);
    at_ = to, ++points_;
  }
  void cubic(const Vec3d& c, const Vec3d& d, const Vec3d& to) {
    // Off its chord by at most a fourth of its second difference by n² (Wang 1984).
    const Vec3d from = at_;
    const double bend = 6 * std::max(length(from - c * 2 + d), length(c - d * 2 + to));
    const int n = std::clamp(int(std::ceil(std::sqrt(bend / (8 * tolerance_)))), 1, 500);
    for (int i = 1; i <= n; ++i) {
      const double t = double(i) / n, u = 1 - t;
      line(i == n ? to : from * (u * u * u) + c * (3 * u * u * t) + d * (3 * u * t * t) + to * (t * t * t));
    }
  }
  /// From two points, radii and flags to a centre (SVG 1.1, appendix F.6).
  void arc(double rx, double ry, double turn, bool large, bool sweep, const Vec3d& to) {
    const Vec3d from = at_;
    rx = std::abs(rx), ry = std::abs(ry);
    if (rx == 0 || ry == 0 || from == to) return line(to);
    const double cs = std::cos(turn), sn = std::sin(turn);
    const Vec3d half = (from - to) * 0.5;
    const double x = cs * half.x + sn * half.y, y = -sn * half.x + cs * half.y;
    const double over = x * x / (rx * rx) + y * y / (ry * ry);
    if (over > 1) rx *= std::sqrt(over), ry *= std::sqrt(over);
    const double den = rx * rx * y * y + ry * ry * x * x;
    double k = std::sqrt(std::max(0.0, (rx * rx * ry * ry - den) / den));
    if (large == sweep) k = -k;
    const double cx = k * rx * y / ry, cy = -k * ry * x / rx;
    const Vec3d middle = (from + to) * 0.5 + Vec3d{cs * cx - sn * cy, sn * cx + cs * cy, 0};
    const double start = std::atan2((y - cy) / ry, (x - cx) / rx);
    double way = std::atan2((-y - cy) / ry, (-x - cx) / rx) - start;
    if (sweep && way < 0) way += 2 * pi;
    if (!sweep && way > 0) way -= 2 * pi;
    // A chord over an angle φ is off a circle by r φ² / 8.
    const double r = std::max(rx, ry);
    const int n = std::clamp(int(std::ceil(std::abs(way) * std::sqrt(r / (8 * tolerance_)))), 2, 2000);
    for (int i = 1; i <= n; ++i) {
      const double a = start + way * i / n, px = rx * std::cos(a), py = ry * std::sin(a);
      line(i == n ? to : middle + Vec3d{cs * px - sn * py, sn * px + cs * py, 0});
    }
  }

  bool step(char command) {
    const bool relative = std::islower(static_cast<unsigned char>(command));
    const char kind = char(std::toupper(static_cast<unsigned char>(command)));
    Vec3d p, c, d;
    double v = 0;
    const char before = std::exchange(before_, kind);
    switch (kind) {
      case 'M':
        if (!point(p, relative)) return false;
        out_.push_back({{p}});
        at_ = start_ = p;
        return true;
      case 'Z':
        out_.back().closed = true;
        at_ = start_;
        return true;
      case 'L':
        if (!point(p, relative)) return false;
        line(p);
        return true;
      case 'H':
        if (!in_.number(v)) return false;
        line({relative ? at_.x + v : v, at_.y, 0});
        return true;
      case 'V':
        if (!in_.number(v)) return false;
        line({at_.x, relative ? at_.y + v : v, 0});
        return true;
      case 'C':
      case 'S':
        c = kind == 'S' && (before == 'C' || before == 'S') ? at_ * 2 - handle_ : at_;
        if ((kind == 'C' && !point(c, relative)) || !point(d, relative) || !point(p, relative)) return false;
        cubic(c, d, p);
        handle_ = d;
        return true;
      case 'Q':
      case 'T':
        c = kind == 'T' && (before == 'Q' || before == 'T') ? at_ * 2 - handle_ : at_;
        if ((kind == 'Q' && !point(c, relative)) || !point(p, relative)) return false;
        cubic(at_ + (c - at_) * (2.0 / 3), p + (c - p) * (2.0 / 3), p);
        handle_ = c;
        return true;
      case 'A': {
        double rx = 0, ry = 0, turn = 0;
        bool large = false, sweep = false;
        if (!in_.number(rx) || !in_.number(ry) || !in_.number(turn) || !in_.flag(large) || !in_.flag(sweep) ||
            !point(p, relative))
          return false;
        arc(rx, ry, turn * pi / 180, large, sweep, p);
        return true;
      }
      default:
        return false;
    }
  }

  Scanner in_;
  double tolerance_;
  std::vector<Polyline> out_;
  Vec3d at_, start_, handle_;
  char before_ = 0;
  size_t points_ = 0;
};

}  // namespace

std::vector<double> parse_numbers(std::string_view text) {
  Scanner in(text);
  std::vector<double> out;
  for (double v = 0; in.number(v) && out.size() < most_points;) out.push_back(v);
  return out;
}

std::vector<Polyline> parse_path(std::string_view data, double tolerance) {
  return PathReader(data, tolerance).read();
}

Affine parse_transform(std::string_view text) {
  Scanner in(text);
  Affine all;
  while (!in.end()) {
    const std::string name = in.word();
    if (in.take() != '(') break;
    std::vector<double> v;
    for (double x = 0; v.size() < 6 && in.number(x);) v.push_back(x);
    if (in.take() != ')' || v.empty()) break;
    const auto at = [&](size_t i, double otherwise) { return i < v.size() ? v[i] : otherwise; };
    const double angle = v[0] * pi / 180;
    if (name == "matrix" && v.size() == 6)
      all = all * Affine{v[0], v[1], v[2], v[3], v[4], v[5]};
    else if (name == "translate")
      all = all * Affine{1, 0, 0, 1, v[0], at(1, 0)};
    else if (name == "scale")
      all = all * Affine{v[0], 0, 0, at(1, v[0]), 0, 0};
    else if (name == "rotate")
      all = all * Affine{1, 0, 0, 1, at(1, 0), at(2, 0)} *
            Affine{std::cos(angle), std::sin(angle), -std::sin(angle), std::cos(angle), 0, 0} *
            Affine{1, 0, 0, 1, -at(1, 0), -at(2, 0)};
    else if (name == "skewX")
      all = all * Affine{1, 0, std::tan(angle), 1, 0, 0};
    else if (name == "skewY")
      all = all * Affine{1, std::tan(angle), 0, 1, 0, 0};
    else
      break;
  }
  return all;
}

}  // namespace pour
