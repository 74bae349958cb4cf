// Drawings beside QtSvg's picture of the same file.
#include <gtest/gtest.h>

#include <filesystem>
#include <QImage>
#include <QPainter>
#include <QSvgRenderer>

#include "base/error.h"
#include "base/file.h"
#include "shape/svg.h"

using namespace pour;

namespace {

constexpr int size = 400;

/// Where QtSvg paints, on a square picture of the whole view box; empty where it can't read the file.
std::vector<bool> painted_by_qt(const QByteArray& file, QRectF& box) {
  QSvgRenderer renderer(file);
  if (!renderer.isValid()) return {};
  box = renderer.viewBoxF();
  const double side = std::max(box.width(), box.height());
  QImage image(size, size, QImage::Format_ARGB32_Premultiplied);
  image.fill(Qt::transparent);
  QPainter p(&image);
  p.setRenderHint(QPainter::Antialiasing);
  renderer.render(&p, QRectF(0, 0, box.width() / side * size, box.height() / side * size));
  p.end();
  std::vector<bool> out;
  for (int y = 0; y < size; ++y)
    for (int x = 0; x < size; ++x) out.push_back(qAlpha(image.pixel(x, y)) > 127);
  return out;
}

/// The same by us: even-odd over the middles of pixels.
std::vector<bool> painted_by_us(const SvgDrawing& d, const QRectF& box) {
  const double side = std::max(box.width(), box.height());
  std::vector<bool> out(size_t(size) * size, false);
  std::vector<double> cuts;
  for (const PaintedShape& s : d.shapes)
    for (int y = 0; y < size; ++y) {
      const double at = box.y() + (y + 0.5) / size * side;
      cuts.clear();
      for (const auto& ring : s.rings)
        for (size_t i = 0; i < ring.size(); ++i) {
          const Vec3d &a = ring[i], &b = ring[(i + 1) % ring.size()];
          if ((a.y > at) != (b.y > at)) cuts.push_back(a.x + (at - a.y) / (b.y - a.y) * (b.x - a.x));
        }
      std::sort(cuts.begin(), cuts.end());
      for (size_t k = 0; k + 1 < cuts.size(); k += 2)
        for (int x = 0; x < size; ++x) {
          const double middle = box.x() + (x + 0.5) / size * side;
          if (middle > cuts[k] && middle < cuts[k + 1]) out[size_t(y) * size + size_t(x)] = true;
        }
    }
  return out;
}

/// The share of all pixels that differ; below 0 where one of both can't read the file.
double differs(const std::string& text) {
  QRectF box;
  const auto theirs = painted_by_qt(QByteArray::fromStdString(text), box);
  if (theirs.empty() || box.isEmpty()) return -1;
  SvgDrawing drawing;
  try {
    drawing = read_svg(text, "Drawing");
  } catch (const Fault&) {
    return -1;
  }
  const auto ours = painted_by_us(drawing, box);
  size_t other = 0;
  for (size_t i = 0; i < ours.size(); ++i) other += ours[i] != theirs[i];
  return double(other) / double(ours.size());
}

std::string svg(const std::string& inside) {
  return "<svg xmlns='http://www.w3.org/2000/svg' xmlns:xlink='http://www.w3.org/1999/xlink' viewBox='0 0 "
         "100 100' "
         "width='100' height='100'>" +
         inside + "</svg>";
}

}  // namespace

// Less than half a per cent of the pixels may differ: ten drawings that use what the reader knows.
TEST(SvgBesideQt, PaintsTheSame) {
  const char* drawings[] = {
      "<rect x='10' y='10' width='60' height='40' rx='12' ry='6'/><ellipse cx='70' cy='70' rx='20' ry='12'/>",
      "<path d='M10 80C20 10 40 10 50 50S80 90 90 20L90 90Z'/>",
      "<path d='M10 50Q30 10 50 50T90 50L90 80 10 80Z'/><polygon points='10,5 40,5 25,25'/>",
      "<path d='M20 50A30 20 30 1 1 60 60A10 10 0 0 0 40 60Z'/>",
      "<path fill-rule='evenodd' d='M50 5L79 95 2 39 98 39 21 95Z'/>",
      "<path d='M50 5L79 95 2 39 98 39 21 95Z'/>",
      "<g transform='translate(50 50) rotate(30) scale(1 .5)'><rect x='-30' y='-30' width='60' height='60' "
      "transform='skewX(20)'/></g>",
      "<path fill='none' stroke='black' stroke-width='9' stroke-linejoin='round' stroke-linecap='round' "
      "d='M15 80L35 20 55 80 75 20 90 60'/>",
      "<path fill='none' stroke='black' stroke-width='6' stroke-linejoin='miter' stroke-dasharray='14 9' "
      "d='M10 20H90V80H10Z'/><circle cx='50' cy='50' r='14' stroke='black' stroke-width='5' fill='none'/>",
      "<style>.a{fill:#333}.n{fill:none}</style><defs><g id='p'><path class='a' d='M0 0H20V20H0Z M5 "
      "5V15H15V5Z'/>"
      "<rect class='n' width='30' height='30'/></g></defs><use xlink:href='#p' x='10' y='10'/>"
      "<use xlink:href='#p' x='20' y='25' transform='scale(2)'/>"};
  for (const char* d : drawings) {
    const double share = differs(svg(d));
    EXPECT_GE(share, 0) << d;
    EXPECT_LT(share, 0.005) << d;
  }
  // The mark that ships.
  EXPECT_LT(std::abs(differs(read_whole(share_folder() / "marks/oddlark-bird.svg"))), 0.005);
}

// Icons as their authors drew them (Debian's adwaita-icon-theme): 98 in a hundred within one per cent.
TEST(SvgBesideQt, IconsOfAThemeAreTheSame) {
  const fs::path theme = "/usr/share/icons/Adwaita";
  if (!fs::exists(theme)) GTEST_SKIP() << "adwaita-icon-theme is not installed";
  std::vector<fs::path> files;
  for (const auto& entry : fs::recursive_directory_iterator(theme))
    if (entry.is_regular_file() && entry.path().extension() == ".svg") files.push_back(entry.path());
  std::sort(files.begin(), files.end());
  int read = 0, alike = 0;
  std::string others;
  for (size_t i = 0; i < files.size() && read < 200; i += std::max<size_t>(1, files.size() / 300)) {
    const std::string text = read_whole(files[i]);
    if (text.find("opacity") != std::string::npos)
      continue;  // half there is there for us, and not in this test
    const double share = differs(text);
    if (share < 0) continue;
    ++read;
    if (share < 0.01)
      ++alike;
    else
      others += files[i].filename().string() + " " + std::to_string(share) + "\n";
  }
  EXPECT_GE(read, 150);
  EXPECT_GE(alike, 0.98 * read) << others;
}
