#include "recipe/setting_row.h"

#include <cmath>
#include <memory>
#include <QAbstractItemView>
#include <QCheckBox>
#include <QColorDialog>
#include <QComboBox>
#include <QCompleter>
#include <QEvent>
#include <QFileDialog>
#include <QHBoxLayout>
#include <QLabel>
#include <QLineEdit>
#include <QMenu>
#include <QPainter>
#include <QPainterPath>
#include <QPushButton>
#include <QSlider>
#include <QTimer>

#include "base/error.h"
#include "base/file.h"
#include "base/units.h"
#include "file_kinds.h"
#include "recipe/card.h"
#include "recipe/dependence_editor.h"
#include "shape/fonts.h"
#include "shot/animate.h"
#include "shot/edit.h"
#include "theme.h"

using namespace pour;

namespace {

constexpr int slider_steps = 1000;

double slider_value(const About& s, int position) {
  return s.slider_low + (s.slider_high - s.slider_low) * position / slider_steps;
}
int slider_position(const Setting& s, double v) {
  return int(
      std::lround(std::clamp((v - s.slider_low) / (s.slider_high - s.slider_low), 0.0, 1.0) * slider_steps));
}

/// A value rounded to a slider's resolution: three significant digits of its range.
QString slider_text(const About& s, double v) {
  const double grain =
      std::pow(10, std::floor(std::log10(std::max(1e-12, s.slider_high - s.slider_low))) - 2);
  return QString::fromStdString(format_quantity(std::round(v / grain) * grain, s.unit, 6));
}

QLineEdit* make_field(Document& document, const QString& path, const Setting& s, QWidget* parent) {
  auto* field = new QLineEdit(parent);
  field->setAccessibleName(QString::fromUtf8(s.name));
  field->setToolTip(QString::fromUtf8(s.help));
  field->setObjectName(path);
  // Once entered, keys belong to the window again: undo undoes the change, space plays.
  QObject::connect(field, &QLineEdit::returnPressed, field, &QWidget::clearFocus, Qt::QueuedConnection);
  QObject::connect(field, &QLineEdit::editingFinished, &document, [&document, path, field] {
    if (field->isModified()) {
      field->setModified(false);
      document.set(path, field->text());
    }
  });
  return field;
}

void put(QLineEdit* field, const QString& text) {
  if (field->hasFocus() && field->isModified()) return;  // the artist is typing
  if (field->text() != text) {
    field->setText(text);
    field->setCursorPosition(0);
  }
  field->setModified(false);
}

/// A click into a list that can be typed into selects what is there, so that typing replaces it.
class SelectAll : public QObject {
 public:
  using QObject::QObject;
  bool eventFilter(QObject* list, QEvent* e) override {
    if (e->type() == QEvent::FocusIn)
      QTimer::singleShot(0, list, [l = static_cast<QComboBox*>(list)] { l->lineEdit()->selectAll(); });
    return false;
  }
};

struct Reference {
  QString name, id;
  QIcon icon = {};
};
using References = QList<Reference>;

/// A list of things of the shot to choose one from.
QWidget* make_reference(Document& document, const QString& path, const Setting& s, QWidget* parent,
                        std::function<void(const Setting&)>& show, const std::function<References()>& all) {
  auto* list = new QComboBox(parent);
  list->setAccessibleName(QString::fromUtf8(s.name)), list->setToolTip(QString::fromUtf8(s.help));
  list->setObjectName(path);
  list->setMinimumWidth(60);
  list->setSizeAdjustPolicy(QComboBox::AdjustToMinimumContentsLengthWithIcon);
  QObject::connect(list, &QComboBox::activated, &document,
                   [&document, path, list](int i) { document.set(path, list->itemData(i).toString()); });
  show = [list, all](const Setting& t) {
    list->clear();
    for (const Reference& r : all()) list->addItem(r.icon, r.name, r.id);
    if (!list->itemIcon(0).isNull()) list->setIconSize({16, 16});  // beside a long name
    const int at = list->findData(QString::fromStdString(t.text()));
    if (at < 0) list->setPlaceholderText(QObject::tr("Choose one"));
    list->setCurrentIndex(at);
  };
  return list;
}

/// Choices for a material: none, the shot's, then a new one of each kind.
References materials_of(const Shot& shot, const std::string& path) {
  References all{{QObject::tr("as the look says"), QString(), swatch("kind", "as_look")}};
  for (const Fluid& f : shot.fluids)
    if (const Liquid* liquid = f.as<Liquid>(); liquid && path == "fluids." + f.id + ".material")
      all = {{QObject::tr("what it is"), QString(),
              swatch("liquid", liquid_options()[size_t(liquid->named)].key)}};
  for (const Material& m : shot.materials)
    all.append({QString::fromStdString(m.name), QString::fromStdString(m.id),
                swatch("kind", material_options()[size_t(m.kind)].key)});
  for (const Option& o : material_options())
    all.append(
        {QObject::tr("new: %1").arg(QObject::tr(o.label)), QString("new ") + o.key, swatch("kind", o.key)});
  return all;
}

/// The same as a list, with a way to the card of the one that is chosen.
QWidget* make_material(Document& document, const QString& path, const Setting& s, QWidget* parent,
                       std::function<void(const Setting&)>& show) {
  auto* box = new QWidget(parent);
  auto* row = new QHBoxLayout(box);
  row->setContentsMargins(0, 0, 0, 0);
  row->setSpacing(2);
  std::function<void(const Setting&)> show_list;
  QWidget* list = make_reference(document, path, s, box, show_list, [&document, path] {
    return materials_of(document.shot(), path.toStdString());
  });
  row->addWidget(list, 1);
  auto* open = new QPushButton(QObject::tr("Edit"), box);
  open->setProperty("role", "link");
  open->setObjectName("edit_" + path);
  open->setToolTip(QObject::tr("Opens its card in Look: colour, roughness, relief"));
  QObject::connect(open, &QPushButton::clicked, &document, [&document, path] {
    const auto id = std::get<MaterialId>(find_setting(document.shot(), path.toStdString()).value).id;
    document.show_item("materials." + QString::fromStdString(id));
  });
  row->addWidget(open);
  box->setFocusProxy(list);
  show = [open, show_list, &document](const Setting& t) {
    show_list(t);
    open->setVisible(document.shot().material(std::get<MaterialId>(t.value).id));
  };
  return box;
}

}  // namespace

QIcon swatch(const std::string& key, const std::string& choice) {
  const auto file = share_folder() / "swatches" / key / (choice + ".png");
  return std::filesystem::exists(file) ? QIcon(QString::fromStdString(file.string())) : QIcon();
}

QString spoken(const Shot& shot, const Setting& s) {
  if (const auto* c = std::get_if<Choice>(&s.value))
    return QString::fromUtf8(s.options[size_t(c->index)].label);
  if (std::holds_alternative<Choices>(s.value)) return QString::fromStdString(to_words(s, s.value, 4));
  if (const auto* p = std::get_if<PieceId>(&s.value)) {
    const Piece* piece = shot.piece(p->id);
    return piece ? QString::fromStdString(piece->name) : QObject::tr("choose a piece");
  }
  if (const auto* l = std::get_if<Links>(&s.value)) {
    QStringList names;
    for (const std::string& id : l->ids) {
      const Piece* piece = shot.piece(id);
      const Fluid* fluid = shot.fluid(id);
      names << QString::fromStdString(piece ? piece->name : fluid ? fluid->name : id);
    }
    return names.isEmpty() ? QObject::tr("all") : names.join(", ");
  }
  if (const auto* f = std::get_if<FluidId>(&s.value)) {
    const Fluid* fluid = shot.fluid(f->id);
    return fluid ? QString::fromStdString(fluid->name) : QObject::tr("choose a fluid");
  }
  if (std::holds_alternative<Windows>(s.value)) return QString::fromStdString(s.text()).replace("-", " – ");
  if (const auto* b = std::get_if<bool>(&s.value); b && !s.options.empty())
    return QString::fromUtf8(s.options[*b].label);
  if (const auto* d = std::get_if<double>(&s.value); d && (*d != 0 || !*s.zero))
    return QString::fromStdString(format_quantity(*d, s.unit));
  if (std::holds_alternative<Vec3d>(s.value)) return QString::fromStdString(to_words(s, s.value, 4));
  return QString::fromStdString(s.text());
}

void add_choices(QMenu& menu, Document& document, const QString& path) {
  const Setting s = find_setting(document.shot(), path.toStdString());
  const Choices now = std::get<Choices>(s.value);
  for (int i = 0; i < int(s.options.size()); ++i) {
    Setting other = s;
    other.value = Choices{now.bits ^ 1u << i};
    auto* action = menu.addAction(
        QString::fromUtf8(s.options[size_t(i)].label), &document,
        [&document, path, text = other.text()] { document.set(path, QString::fromStdString(text)); });
    action->setCheckable(true), action->setChecked(now.has(i));
    action->setEnabled(now.bits != 1u << i);
  }
}

/// Words on a button, where & would underline what follows.
QString as_button(QString words) { return words.replace('&', "&&"); }

namespace {

/// A button that says the setting's value, with a menu that `fill` makes anew whenever it opens.
QWidget* make_menu_button(Document& document, const QString& path, const Setting& s, QWidget* parent,
                          std::function<void(const Setting&)>& show,
                          void (*fill)(QMenu&, Document&, const QString& path)) {
  auto* button = new QPushButton(parent);
  button->setAccessibleName(QString::fromUtf8(s.name)), button->setToolTip(QString::fromUtf8(s.help));
  button->setObjectName(path);
  auto* menu = new QMenu(button);
  button->setMenu(menu);
  QObject::connect(menu, &QMenu::aboutToShow, button,
                   [&document, path, menu, fill] { menu->clear(), fill(*menu, document, path); });
  show = [button, &document](const Setting& t) {
    const QString words = spoken(document.shot(), t);
    button->setText(as_button(button->fontMetrics().elidedText(words, Qt::ElideRight, 150)));
    button->setAccessibleDescription(words);
  };
  return button;
}

/// Adds all fluids to be ticked, and all pieces where it is about light; none is all.
void add_links(QMenu& menu, Document& document, const QString& path) {
  const Setting setting = find_setting(document.shot(), path.toStdString());
  const Links now = std::get<Links>(setting.value);
  const auto put = [&document, path](const Links& links) {
    Setting text;
    text.value = links;
    document.set(path, QString::fromStdString(text.text()));
  };
  auto* all = menu.addAction(QObject::tr("all"), &menu, [put] { put({}); });
  all->setCheckable(true), all->setChecked(now.ids.empty());
  const auto add = [&](const std::string& id, const std::string& name) {
    const bool on = !now.ids.empty() && now.has(id);
    auto* action = menu.addAction(as_button(QString::fromStdString(name)), &menu, [put, now, id, on] {
      Links next = now;
      on ? (void)std::erase(next.ids, id) : next.ids.push_back(id);
      put(next);
    });
    action->setCheckable(true), action->setChecked(on);
  };
  if (setting.touches != Touches::flow)
    for (const Piece& p : document.shot().pieces) add(p.id, p.name);
  for (const Fluid& f : document.shot().fluids) add(f.id, f.name);
}

/// A field for points, and a button that takes them from a drawing.
QWidget* make_points(Document& document, const QString& path, const Setting& s, QWidget* parent,
                     std::function<void(const Setting&)>& show) {
  auto* box = new QWidget(parent);
  auto* row = new QHBoxLayout(box);
  row->setContentsMargins(0, 0, 0, 0);
  QLineEdit* field = make_field(document, path, s, box);
  row->addWidget(field, 1);
  auto* file = new QPushButton(QObject::tr("SVG …"), box);
  file->setProperty("role", "link");
  file->setObjectName(path + "_file");
  file->setToolTip(QObject::tr("Takes the longest line of a drawing, a unit of it a millimetre"));
  file->setAccessibleName(QObject::tr("%1 from a drawing").arg(QString::fromUtf8(s.name)));
  QObject::connect(file, &QPushButton::clicked, &document, [&document, path, file] {
    const QString name = QFileDialog::getOpenFileName(file->window(), QObject::tr("Choose a drawing"), {},
                                                      QObject::tr("Drawings (*.svg)"));
    if (!name.isEmpty()) document.set(path, name);
  });
  row->addWidget(file);
  box->setFocusProxy(field);
  show = [field, &document](const Setting& t) { put(field, spoken(document.shot(), t)); };
  return box;
}

/// File filter of a button.
QString files_of(const Value& v) {
  if (std::holds_alternative<Drawing>(v)) return QObject::tr("Drawings (*.svg)");
  if (std::holds_alternative<ModelFile>(v)) return QObject::tr("Models (%1)").arg(model_patterns().join(' '));
  return QObject::tr("Pictures (*.png *.jpg *.jpeg *.tif *.tiff *.hdr *.exr)");
}

/// The only entry of a list that has a text in it; −1 where none or several have.
int only_match(const QComboBox& list, const QString& text) {
  int found = -1;
  for (int i = 0; i < list.count() && !text.isEmpty(); ++i)
    if (list.itemText(i).contains(text, Qt::CaseInsensitive)) {
      if (found >= 0) return -1;
      found = i;
    }
  return found;
}

}  // namespace

QWidget* make_editor(Document& document, const QString& path, const Setting& s, QWidget* parent,
                     std::function<void(const Setting&)>& show) {
  const QString name = QString::fromUtf8(s.name), help = QString::fromUtf8(s.help);
  if (std::holds_alternative<bool>(s.value)) {
    auto* box = new QCheckBox(parent);
    box->setAccessibleName(name), box->setToolTip(help), box->setObjectName(path);
    QObject::connect(box, &QCheckBox::clicked, &document,
                     [&document, path](bool on) { document.set(path, on ? "yes" : "no"); });
    show = [box](const Setting& t) { box->setChecked(std::get<bool>(t.value)); };
    return box;
  }
  if (std::holds_alternative<Choice>(s.value)) {
    auto* list = new QComboBox(parent);
    list->setAccessibleName(name), list->setToolTip(help), list->setObjectName(path);
    for (const Option& o : s.options)
      list->addItem(swatch(s.key, o.key), QString::fromUtf8(o.label), QString::fromUtf8(o.key));
    if (!list->itemIcon(0).isNull()) list->setIconSize({22, 22});
    list->setMinimumWidth(60), list->setSizeAdjustPolicy(QComboBox::AdjustToMinimumContentsLengthWithIcon);
    QObject::connect(list, &QComboBox::activated, &document,
                     [&document, path, list](int i) { document.set(path, list->itemData(i).toString()); });
    show = [list](const Setting& t) { list->setCurrentIndex(std::get<Choice>(t.value).index); };
    return list;
  }
  if (std::holds_alternative<PieceId>(s.value)) {
    const bool may_be_none = std::string(s.key) != "source";
    return make_reference(document, path, s, parent, show, [&document, may_be_none] {
      References all;
      if (may_be_none) all.append({QObject::tr("none"), QString(), {}});
      for (const Piece& p : document.shot().pieces)
        all.append({QString::fromStdString(p.name), QString::fromStdString(p.id), {}});
      return all;
    });
  }
  if (std::holds_alternative<MaterialId>(s.value)) return make_material(document, path, s, parent, show);
  if (std::holds_alternative<FluidId>(s.value))
    return make_reference(document, path, s, parent, show, [&document] {
      References all;
      for (const Fluid& f : document.shot().fluids)
        all.append({QString::fromStdString(f.name), QString::fromStdString(f.id), {}});
      return all;
    });
  if (std::holds_alternative<FontName>(s.value)) {
    auto* list = new QComboBox(parent);
    list->setAccessibleName(name), list->setToolTip(help), list->setObjectName(path);
    list->setEditable(true);
    list->setInsertPolicy(QComboBox::NoInsert);
    list->setMaxVisibleItems(20);
    list->setMinimumWidth(60);
    list->setSizeAdjustPolicy(QComboBox::AdjustToMinimumContentsLengthWithIcon);
    for (const FontFile& f : all_fonts()) list->addItem(QString::fromStdString(f.name));
    list->completer()->setFilterMode(Qt::MatchContains);
    list->completer()->setCompletionMode(QCompleter::PopupCompletion);
    const auto commit = [&document, path, list] {
      // Unknown fonts are reported, and the former font returns.
      if (list->findText(list->currentText()) >= 0) {
        document.set(path, list->currentText());
        return;
      }
      const QString typed = list->currentText();
      // Part of a name is enough where only one has it.
      if (const int only = only_match(*list, typed); only >= 0) {
        list->setCurrentIndex(only);
        document.set(path, list->itemText(only));
        return;
      }
      list->setCurrentText(QString::fromStdString(find_setting(document.shot(), path.toStdString()).text()));
      try {
        document.set(path, QString::fromStdString(find_font(typed.toStdString()).name));  // of a family
      } catch (const Fault& f) {
        Q_EMIT document.problem(QString::fromUtf8(f.what()));
      }
    };
    QObject::connect(list, &QComboBox::activated, &document, commit);
    QObject::connect(list->lineEdit(), &QLineEdit::editingFinished, &document, commit);
    list->installEventFilter(new SelectAll(list));
    show = [list](const Setting& t) {
      if (list->lineEdit()->hasFocus()) return;
      list->setCurrentText(QString::fromStdString(std::get<FontName>(t.value).name));
      list->lineEdit()->setCursorPosition(0);  // a long name is cut at its end
    };
    return list;
  }
  if (std::holds_alternative<Choices>(s.value))
    return make_menu_button(document, path, s, parent, show, add_choices);
  if (std::holds_alternative<Links>(s.value))
    return make_menu_button(document, path, s, parent, show, add_links);
  if (std::holds_alternative<Drawing>(s.value) || std::holds_alternative<ModelFile>(s.value) ||
      std::holds_alternative<PictureFile>(s.value)) {
    const QString files = files_of(s.value);
    auto* button = new QPushButton(parent);
    button->setAccessibleName(name), button->setToolTip(help), button->setObjectName(path);
    QObject::connect(button, &QPushButton::clicked, &document, [&document, path, button, files] {
      const QString file =
          QFileDialog::getOpenFileName(button->window(), QObject::tr("Choose a file"), {}, files);
      if (!file.isEmpty()) document.set_beside(path, file);
    });
    show = [button](const Setting& t) {
      const QString words = QString::fromStdString(t.text());
      button->setText(words.isEmpty() ? QObject::tr("Choose …") : as_button(words));
    };
    return button;
  }
  if (std::holds_alternative<Color>(s.value)) {
    auto* button = new QPushButton(parent);
    button->setAccessibleName(name), button->setToolTip(help), button->setObjectName(path);
    button->setFixedHeight(22);
    QObject::connect(button, &QPushButton::clicked, &document, [&document, path, button, name] {
      const QColor c =
          QColorDialog::getColor(QColor(button->property("color").toString()), button->window(), name);
      if (c.isValid()) document.set(path, c.name());
    });
    show = [button](const Setting& t) {
      const QString hex = QString::fromStdString(t.text());
      button->setProperty("color", hex);
      button->setStyleSheet(QString("background: %1; border-radius: 4px;").arg(hex));
      button->setAccessibleDescription(hex);
    };
    return button;
  }
  if (std::holds_alternative<Points>(s.value)) return make_points(document, path, s, parent, show);
  if (std::holds_alternative<Dependence>(s.value)) return make_dependence(document, path, s, parent, show);
  QLineEdit* field = make_field(document, path, s, parent);
  show = [field, &document](const Setting& t) {
    put(field, std::holds_alternative<std::string>(t.value) ? QString::fromStdString(t.text())
                                                            : spoken(document.shot(), t));
  };
  return field;
}

namespace {

/// The name of a setting at the start of its row, with a badge where only traced pictures show it. Beside a
/// field alone it takes what room there is.
QLabel* add_name(const Setting& s, QHBoxLayout& row, bool takes_all, QWidget* parent) {
  auto* name = new QLabel(QString::fromUtf8(s.name), parent);
  name->setProperty("role", "quiet");
  name->setToolTip(QString::fromUtf8(s.help));
  auto* both = new QHBoxLayout;
  both->setSpacing(4);
  both->addWidget(name);
  if (s.traced) {
    auto* badge = new QLabel(Card::tr("traced"), parent);
    badge->setProperty("role", "tag");
    badge->setToolTip(Card::tr("Only traced pictures show this."));
    both->addWidget(badge);
  }
  both->addStretch(1);
  if (takes_all) {
    row.addLayout(both, 1);
  } else {
    auto* room = new QWidget(parent);
    room->setFixedWidth(104);
    both->setContentsMargins(0, 0, 0, 0);
    room->setLayout(both);
    row.addWidget(room);
  }
  return name;
}

}  // namespace

SettingRow::SettingRow(Document& document, const Group& group, const Setting& s, QWidget* parent)
    : QWidget(parent), document_(document), path_(QString::fromStdString(group.path(s))) {
  const bool is_double = std::holds_alternative<double>(s.value),
             is_int = std::holds_alternative<int>(s.value);
  auto* lines = new QVBoxLayout(this);
  lines->setContentsMargins(0, 0, 0, 0);
  lines->setSpacing(0);
  auto* row = new QHBoxLayout;
  row->setSpacing(8);
  lines->addLayout(row);
  QLabel* name = add_name(s, *row, is_double || is_int, this);
  setMinimumHeight(24);
  std::function<void(const Setting&)> show_editor;
  QWidget* editor = make_editor(document, path_, s, this, show_editor);
  name->setBuddy(editor);
  if (is_double || is_int) {
    auto* slider = new QSlider(Qt::Horizontal, this);
    slider->setRange(0, slider_steps);
    slider->setPageStep(slider_steps / 20);
    slider->setSingleStep(slider_steps / 100);
    slider->setAccessibleName(QString::fromUtf8(s.name));
    slider->setToolTip(QString::fromUtf8(s.help));
    // Each drag is one undo step, and so are key presses in between.
    const auto gesture = std::make_shared<int>(0);
    for (auto edge : {&QSlider::sliderPressed, &QSlider::sliderReleased})
      connect(slider, edge, this, [gesture] { ++*gesture; });
    connect(slider, &QSlider::valueChanged, this,
            [this, slider, range = About(s), is_int, gesture](int position) {
              if (slider->signalsBlocked()) return;
              const double v = slider_value(range, position);
              document_.set(path_, is_int ? QString::number(std::lround(v)) : slider_text(range, v),
                            QString::number(*gesture));
            });
    // A line of its own: as long as a hand needs.
    lines->addWidget(slider);
    auto* field = static_cast<QLineEdit*>(editor);
    field->setFixedWidth(92);
    field->setAlignment(Qt::AlignRight);
    row->addWidget(field);
    show_ = [slider, show_editor](const Setting& t) {
      const auto* real = std::get_if<double>(&t.value);
      const double v = real ? *real : std::get<int>(t.value);
      const QSignalBlocker block(slider);
      if (!slider->isSliderDown()) slider->setValue(slider_position(t, v));
      show_editor(t);
    };
  } else {
    row->addWidget(editor, 1);
    show_ = show_editor;
  }
  if (s.can_animate()) {
    animate_ = new QPushButton(this);
    animate_->setObjectName("animate_" + path_);
    animate_->setFixedSize(22, 22);
    animate_->setCheckable(true);
    animate_->setStyleSheet(
        "QPushButton { border: none; background: transparent; padding: 0; }"
        "QPushButton:focus { border: 1px solid palette(highlight); border-radius: 11px; }");
    row->addWidget(animate_);
    connect(animate_, &QPushButton::clicked, &document,
            [&document, path = path_, name = QString::fromUtf8(s.name)](bool on) {
              document.edit(on ? Card::tr("Animate %1").arg(name) : Card::tr("Stop to animate %1").arg(name),
                            [&](Shot& shot) {
                              if (on)
                                start_animating(shot, path.toStdString(), document.frame());
                              else
                                stop_animating(shot, path.toStdString(), document.frame());
                            });
            });
  } else {
    row->addSpacing(22);
  }
  refresh(s);
}

/// A drop beside the field: hollow where the setting stays, full where it changes in time, with a dot where
/// it has a key at the playhead.
void SettingRow::show_track(const Setting& s) {
  if (!animate_) return;
  const bool key = s.track && s.track->key_at(document_.clock().key_time(s, document_.frame()));
  QPixmap pixmap(44, 44);
  pixmap.fill(Qt::transparent);
  QPainter p(&pixmap);
  p.setRenderHint(QPainter::Antialiasing);
  QPainterPath drop;
  drop.moveTo(22, 8), drop.cubicTo(28, 17, 32, 21, 32, 27), drop.arcTo(QRectF(12, 17, 20, 20), 0, -180);
  drop.cubicTo(12, 21, 16, 17, 22, 8);
  p.setPen(QPen(s.track ? theme().time : theme().quiet, 2.5));
  p.setBrush(s.track ? QBrush(theme().time) : QBrush(Qt::NoBrush));
  p.drawPath(drop);
  if (key) p.setPen(Qt::NoPen), p.setBrush(theme().panel), p.drawEllipse(QPointF(22, 27), 4.5, 4.5);
  pixmap.setDevicePixelRatio(2);
  animate_->setIcon(pixmap);
  animate_->setIconSize({22, 22});
  animate_->setChecked(s.track.has_value());
  const QString name = QString::fromUtf8(s.name);
  animate_->setToolTip(
      !s.track ? Card::tr("Lets %1 change within the shot: a key at the playhead").arg(name)
      : key    ? Card::tr("%1 is animated, with a key here. Press to let it stay as it is").arg(name)
            : Card::tr("%1 is animated; a change sets a key here. Press to let it stay as it is").arg(name));
  animate_->setAccessibleName(Card::tr("Animate %1").arg(name));
}

void SettingRow::refresh(const Setting& s) {
  show_(s);
  show_track(s);
}
