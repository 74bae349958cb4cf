// Lens tools of the picture stage: focus by click, and composition guides.
#include <QMenu>
#include <QPainter>
#include <QPainterPath>
#include <QPushButton>

#include "base/units.h"
#include "picture/focus.h"
#include "shot/edit.h"
#include "view/viewport.h"

using namespace pour;

namespace {

struct Lines {
  const char *key, *name;
  double aspect;  // of a cut-out; 0: not one
};
const Lines all_lines[] = {{"thirds", QT_TRANSLATE_NOOP("Viewport", "Thirds"), 0},
                           {"middle", QT_TRANSLATE_NOOP("Viewport", "Middle"), 0},
                           {"safe", QT_TRANSLATE_NOOP("Viewport", "Safe areas"), 0},
                           {"tall", QT_TRANSLATE_NOOP("Viewport", "Cut to 9 : 16"), 9.0 / 16},
                           {"portrait", QT_TRANSLATE_NOOP("Viewport", "Cut to 4 : 5"), 4.0 / 5},
                           {"square", QT_TRANSLATE_NOOP("Viewport", "Cut to 1 : 1"), 1},
                           {"wide", QT_TRANSLATE_NOOP("Viewport", "Cut to 2.39 : 1"), 2.39}};

/// SMPTE ST 2046-1: safe areas for action and titles, as shares of width and height.
constexpr double safe_action = 0.93, safe_title = 0.90;

QRectF scaled(const QRectF& r, double sx, double sy) {
  const QSizeF s(r.width() * sx, r.height() * sy);
  return {r.center() - QPointF(s.width() / 2, s.height() / 2), s};
}

}  // namespace

void Viewport::add_guides(QMenu& menu) {
  for (const Lines& lines : all_lines) {
    auto* a = menu.addAction(tr(lines.name));
    a->setObjectName(QString("guide_%1").arg(lines.key));
    a->setCheckable(true);
    connect(a, &QAction::toggled, this, [this, key = std::string(lines.key)](bool on) {
      on ? (void)guides_.insert(key) : (void)guides_.erase(key);
      refresh();
    });
  }
}

void Viewport::paint_guides(QPainter& p) {
  const QRectF film = film_frame();
  p.setBrush(Qt::NoBrush);
  for (const Lines& lines : all_lines) {
    if (!guides_.contains(lines.key)) continue;
    p.setPen(QPen(QColor(251, 250, 247, 150), 1));
    const std::string key = lines.key;
    if (key == "thirds")
      for (const double at : {1.0 / 3, 2.0 / 3}) {
        p.drawLine(QPointF(film.left() + at * film.width(), film.top()),
                   QPointF(film.left() + at * film.width(), film.bottom()));
        p.drawLine(QPointF(film.left(), film.top() + at * film.height()),
                   QPointF(film.right(), film.top() + at * film.height()));
      }
    if (key == "middle") {
      p.drawLine(film.center() - QPointF(14, 0), film.center() + QPointF(14, 0));
      p.drawLine(film.center() - QPointF(0, 14), film.center() + QPointF(0, 14));
    }
    if (key == "safe")
      for (const double part : {safe_action, safe_title}) p.drawRect(scaled(film, part, part));
    if (lines.aspect > 0) {
      const QSizeF s = QSizeF(lines.aspect, 1).scaled(film.size(), Qt::KeepAspectRatio);
      const QRectF cut = scaled(film, s.width() / film.width(), s.height() / film.height());
      QPainterPath outside;
      outside.addRect(film), outside.addRect(cut);  // odd and even: between both
      p.fillPath(outside, QColor(25, 30, 30, 110));
      p.drawRect(cut);
      const QString name = tr(lines.name);
      const QRectF label(cut.left() + 6, cut.bottom() - 26, p.fontMetrics().horizontalAdvance(name) + 12, 20);
      p.fillRect(label, QColor(25, 30, 30, 170));
      p.drawText(label, Qt::AlignCenter, name);
    }
  }
}

/// Sharp is from now on what is seen here; a lens that blurs nothing is opened.
void Viewport::focus_at(const QPointF& at) {
  focus_->setChecked(false);
  const auto there = what_is_at(at);
  if (!there) {
    Q_EMIT document_.problem(
        tr("Nothing is there to be sharp. Press Focus again, then click on a piece or on "
           "liquid."));
    return;
  }
  document_.edit(tr("Focus"), [&](Shot& s) {
    change_value(s, "camera.focus", there->distance, document_.frame());
    if (s.camera.f_number == 0) change_value(s, "camera.f_number", opened, document_.frame());
  });
}
