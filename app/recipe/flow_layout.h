// Lays widgets out like the words of a sentence.
#pragma once
#include <QLayout>

class FlowLayout : public QLayout {
 public:
  explicit FlowLayout(QWidget* parent, int gap = 4, int line_gap = 4);
  ~FlowLayout() override;
  void addItem(QLayoutItem* item) override { items_.append(item); }
  int count() const override { return int(items_.size()); }
  QLayoutItem* itemAt(int i) const override { return items_.value(i); }
  QLayoutItem* takeAt(int i) override { return i >= 0 && i < items_.size() ? items_.takeAt(i) : nullptr; }
  Qt::Orientations expandingDirections() const override { return {}; }
  bool hasHeightForWidth() const override { return true; }
  int heightForWidth(int width) const override { return place(QRect(0, 0, width, 0), false); }
  QSize sizeHint() const override { return minimumSize(); }
  QSize minimumSize() const override;
  void setGeometry(const QRect& r) override;

 private:
  int place(const QRect& r, bool move) const;
  QList<QLayoutItem*> items_;
  int gap_, line_gap_;
};
