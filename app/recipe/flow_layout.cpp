#include "recipe/flow_layout.h"

#include <QWidget>

FlowLayout::FlowLayout(QWidget* parent, int gap, int line_gap)
    : QLayout(parent), gap_(gap), line_gap_(line_gap) {
  setContentsMargins(0, 0, 0, 0);
}

FlowLayout::~FlowLayout() { qDeleteAll(items_); }

QSize FlowLayout::minimumSize() const {
  QSize s;
  for (const QLayoutItem* i : items_) s = s.expandedTo(i->minimumSize());
  return s;
}

void FlowLayout::setGeometry(const QRect& r) {
  QLayout::setGeometry(r);
  place(r, true);
}

int FlowLayout::place(const QRect& r, bool move) const {
  int x = r.x(), y = r.y(), line = 0;
  for (QLayoutItem* item : items_) {
    const QSize s = item->sizeHint().boundedTo(QSize(r.width(), 1000));
    if (x + s.width() > r.right() + 1 && line > 0) x = r.x(), y += line + line_gap_, line = 0;
    if (move) item->setGeometry(QRect(QPoint(x, y), s));
    // Punctuation stays with the word before it.
    x += s.width() + (item->widget() && item->widget()->property("sticks").toBool() ? 0 : gap_);
    line = std::max(line, s.height());
  }
  return y + line - r.y();
}
