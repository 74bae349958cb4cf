#include "recipe/dependence_editor.h"

#include <QComboBox>
#include <QLineEdit>
#include <QPainter>
#include <QVBoxLayout>

#include "theme.h"

using namespace pour;

namespace {

/// Draws the curve with its figures at both axes.
class Plot : public QWidget {
 public:
  explicit Plot(QWidget* parent) : QWidget(parent) { setFixedHeight(64); }
  void set(const Dependence& d) {
    shown_ = d;
    update();
  }

 protected:
  void paintEvent(QPaintEvent*) override {
    if (shown_.points.size() < 2) return;
    QPainter p(this);
    p.setRenderHint(QPainter::Antialiasing);
    double low = 0, high = 0;
    for (const auto& [x, y] : shown_.points) low = std::min(low, y), high = std::max(high, y);
    if (high <= low) high = low + 1;
    const double first = shown_.points.front().first, last = shown_.points.back().first;
    const int text = fontMetrics().height();
    const QRectF area(4, text, width() - 8, height() - 2 * text);
    const auto at = [&](double x, double y) {
      return QPointF(area.left() + area.width() * (x - first) / (last - first),
                     area.bottom() - area.height() * (y - low) / (high - low));
    };
    p.setPen(QPen(theme().line, 1));
    p.drawLine(at(first, 0), at(last, 0));
    p.setPen(QPen(theme().accent, 1.6));
    QPolygonF line;
    for (const auto& [x, y] : shown_.points) line << at(x, y);
    p.drawPolyline(line);
    p.setBrush(theme().accent);
    for (const QPointF& q : line) p.drawEllipse(q, 2.5, 2.5);
    p.setPen(theme().quiet);
    const auto words = [](double v, Unit unit) { return QString::fromStdString(format_quantity(v, unit)); };
    const Unit unit = unit_of(shown_.driver);
    p.drawText(QRectF(0, 0, width(), text), Qt::AlignLeft, words(high, Unit::percent));
    p.drawText(QRectF(0, height() - text, width(), text), Qt::AlignLeft, words(first, unit));
    p.drawText(QRectF(0, height() - text, width(), text), Qt::AlignRight, words(last, unit));
  }

 private:
  Dependence shown_;
};

/// The points without the driver.
QString points_of_curve(const Dependence& d) { return QString::fromStdString(to_text(d)).section(": ", 1); }

}  // namespace

QWidget* make_dependence(Document& document, const QString& path, const Setting& s, QWidget* parent,
                         std::function<void(const Setting&)>& show) {
  const QString name = QString::fromUtf8(s.name);
  auto* box = new QWidget(parent);
  auto* column = new QVBoxLayout(box);
  column->setContentsMargins(0, 0, 0, 0);
  column->setSpacing(3);
  auto* list = new QComboBox(box);
  list->setObjectName(path), list->setAccessibleName(name), list->setToolTip(QString::fromUtf8(s.help));
  for (const Option& o : drivers()) list->addItem(QString::fromUtf8(o.label), QString::fromUtf8(o.key));
  auto* field = new QLineEdit(box);
  field->setObjectName(path + "_points");
  field->setAccessibleName(QObject::tr("%1: points").arg(name));
  field->setToolTip(QObject::tr("Points of the curve, each a figure and a share: 0 s, 0 %; 2 s, 100 %"));
  auto* plot = new Plot(box);
  for (QWidget* part :
       {static_cast<QWidget*>(list), static_cast<QWidget*>(field), static_cast<QWidget*>(plot)})
    column->addWidget(part);
  box->setFocusProxy(list);
  QObject::connect(list, &QComboBox::activated, &document,
                   [&document, path, list](int i) { document.set(path, list->itemData(i).toString()); });
  QObject::connect(field, &QLineEdit::editingFinished, &document, [&document, path, list, field] {
    if (!field->isModified()) return;
    field->setModified(false);
    document.set(path, list->currentData().toString() + ": " + field->text());
  });
  show = [list, field, plot](const Setting& t) {
    const auto& d = std::get<Dependence>(t.value);
    list->setCurrentIndex(int(d.driver));
    const bool any = d.driver != Driver::none;
    field->setVisible(any), plot->setVisible(any);
    if (!(field->hasFocus() && field->isModified())) {
      field->setText(points_of_curve(d)), field->setModified(false);
      field->setCursorPosition(0);
    }
    plot->set(d);
  };
  return box;
}
