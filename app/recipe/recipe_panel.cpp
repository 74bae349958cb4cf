#include "recipe/recipe_panel.h"

#include <QApplication>
#include <QClipboard>
#include <QFileDialog>
#include <QHBoxLayout>
#include <QLabel>
#include <QMenu>
#include <QMimeData>
#include <QPushButton>
#include <QRegularExpression>
#include <QScrollBar>
#include <QVBoxLayout>

#include "file_kinds.h"
#include "recipe/card.h"
#include "recipe/deliver_box.h"
#include "recipe/setting_row.h"
#include "recipe/skin_box.h"
#include "runs.h"
#include "shot/animate.h"
#include "shot/edit.h"
#include "theme.h"
#include "view/analyst.h"

using namespace pour;

namespace {

constexpr const char* names[7] = {
    QT_TRANSLATE_NOOP("RecipePanel", "Set"),     QT_TRANSLATE_NOOP("RecipePanel", "Fluid"),
    QT_TRANSLATE_NOOP("RecipePanel", "Forces"),  QT_TRANSLATE_NOOP("RecipePanel", "Run"),
    QT_TRANSLATE_NOOP("RecipePanel", "Surface"), QT_TRANSLATE_NOOP("RecipePanel", "Look"),
    QT_TRANSLATE_NOOP("RecipePanel", "Deliver")};

/// The step that a group of settings belongs to.
int step_of(const Group& g) {
  if (g.list == "pieces") return 1;
  if (g.list == "fluids" || g.list == "pours" || g.key == "gas") return 2;
  if (g.list == "forces") return 3;
  if (g.key == "run" || g.key == "film") return 4;
  if (g.key == "surface") return 5;
  return 6;  // materials, lights, look, camera
}

QString joined(const QStringList& list) { return list.join(", "); }

}  // namespace

RecipePanel::RecipePanel(Document& document, Runs& runs, Analyst& analyst, Skins& skins, DeliverBox* deliver,
                         QWidget* parent)
    : QWidget(parent), document_(document), runs_(runs), analyst_(analyst), skins_(skins), deliver_(deliver) {
  setAccessibleName(tr("Recipe"));
  auto* outer = new QVBoxLayout(this);
  outer->setContentsMargins(0, 0, 0, 0);
  scroll_ = new QScrollArea(this);
  scroll_->setWidgetResizable(true);
  scroll_->setHorizontalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
  outer->addWidget(scroll_);
  auto* content = new QWidget;
  auto* column = new QVBoxLayout(content);
  column->setContentsMargins(0, 0, 0, 0);
  column->setSpacing(0);
  for (int i = 0; i < 7; ++i) {
    Step& s = steps_[i];
    s.head = new QPushButton(content);
    s.head->setObjectName(QString("step_%1").arg(i + 1));
    s.head->setAccessibleName(tr("Step %1, %2").arg(i + 1).arg(tr(names[i])));
    s.head->setStyleSheet(QString("QPushButton { background: transparent; border: none; border-radius: 0; "
                                  "text-align: left; padding: 0; }"
                                  "QPushButton:hover, QPushButton:focus { background: %1; }")
                              .arg(theme().soft.name()));
    s.head->setEnabled(available(i + 1));
    auto* row = new QHBoxLayout(s.head);
    row->setContentsMargins(16, 8, 14, 8);
    row->setSpacing(12);
    s.numeral = new QLabel(QString::number(i + 1), s.head);
    s.numeral->setFont(numeral_font(20));
    s.numeral->setFixedWidth(16);
    row->addWidget(s.numeral, 0, Qt::AlignTop);
    auto* words = new QVBoxLayout;
    words->setSpacing(1);
    s.name = new QLabel(tr(names[i]), s.head);
    s.name->setProperty("role", "title");
    s.summary = new QLabel(s.head);
    s.summary->setProperty("role", "quiet");
    words->addWidget(s.name);
    words->addWidget(s.summary);
    words->addStretch(1);
    row->addLayout(words, 1);
    for (QLabel* l : {s.numeral, s.name, s.summary}) l->setAttribute(Qt::WA_TransparentForMouseEvents);
    connect(s.head, &QPushButton::clicked, this,
            [this, i] { document_.open_step(document_.step() == i + 1 ? 0 : i + 1); });
    column->addWidget(s.head);
    s.body = new QWidget(content);
    column->addWidget(s.body);
    auto* line = new QFrame(content);
    line->setFixedHeight(1);
    line->setStyleSheet(QString("background: %1;").arg(theme().line.name()));
    column->addWidget(line);
  }
  column->addStretch(1);
  scroll_->setWidget(content);
  rebuild_.setSingleShot(true);
  rebuild_.setInterval(0);
  connect(&rebuild_, &QTimer::timeout, this, &RecipePanel::rebuild);
  connect(&document_, &Document::changed, this, &RecipePanel::refresh);
  connect(&document_, &Document::frame_changed, this, [this] {
    if (!animated_paths(document_.shot()).empty()) refresh();
  });
  connect(&document_, &Document::step_changed, &rebuild_, qOverload<>(&QTimer::start));
  connect(&document_, &Document::replaced, &rebuild_, qOverload<>(&QTimer::start));
  connect(&document_, &Document::selection_changed, this, [this] {
    mark_selected();
    for (Card* card : cards_)
      if (!document_.selected().empty() &&
          card->objectName() == "card_pieces." + QString::fromStdString(document_.selected().back()))
        scroll_->ensureWidgetVisible(card);
  });
  connect(&document_, &Document::item_wanted, this, &RecipePanel::show_item);
  connect(&analyst_, &Analyst::changed, this, &RecipePanel::refresh);
  connect(&runs_, &Runs::changed, this, &RecipePanel::refresh);
  rebuild();
}

/// Settings with their values at the playhead, and their tracks.
std::vector<Group> RecipePanel::described_now() const {
  std::vector<Group> groups = describe(document_.shot());
  if (animated_paths(document_.shot()).empty()) return groups;
  const std::vector<Group> now = describe(document_.shot_now());
  for (size_t i = 0; i < groups.size(); ++i)
    for (size_t k = 0; k < groups[i].settings.size(); ++k)
      if (groups[i].settings[k].track) groups[i].settings[k].value = now[i].settings[k].value;
  return groups;
}

void RecipePanel::rebuild() {
  QStringList opened;  // cards stay open
  for (const QPushButton* b : findChildren<QPushButton*>(QRegularExpression("^more_")))
    if (b->isChecked()) opened << b->objectName();
  cards_.clear();
  estimate_ = nullptr;
  deliver_->setParent(nullptr);
  for (int i = 0; i < 7; ++i) {
    Step& s = steps_[i];
    const bool open = document_.step() == i + 1;
    s.head->setMinimumHeight(open ? 38 : 54);
    s.numeral->setStyleSheet(QString("color: %1;").arg((open ? theme().accent : theme().quiet).name()));
    s.head->setAccessibleDescription(open ? tr("open") : summary(i + 1));
    delete s.body->layout();
    qDeleteAll(s.body->findChildren<QWidget*>(Qt::FindDirectChildrenOnly));
    s.body->setVisible(open);
    if (!open) continue;
    auto* column = new QVBoxLayout(s.body);
    column->setContentsMargins(44, 0, 10, 14);
    column->setSpacing(8);
    fill(i + 1, column);
  }
  for (const QString& name : opened)
    if (auto* more = findChild<QPushButton*>(name)) more->setChecked(true);
  refresh();
}

namespace {

/// The text of an SVG that was copied, or nothing.
QString clipboard_drawing() {
  const QMimeData* data = QApplication::clipboard()->mimeData();
  if (!data) return {};
  const QString text =
      data->hasFormat("image/svg+xml") ? QString::fromUtf8(data->data("image/svg+xml")) : data->text();
  return text.contains("<svg") ? text : QString();
}

/// Whether any of its settings has an effect.
bool has_effect(const Group& g) {
  return std::any_of(g.settings.begin(), g.settings.end(), [](const Setting& s) { return s.applies; });
}

}  // namespace

void RecipePanel::fill(int step, QVBoxLayout* into) {
  for (const Group& g : described_now()) {
    if (step_of(g) != step || step == 7 || !has_effect(g)) continue;
    auto* card = new Card(document_, g, !g.list.empty(), steps_[step - 1].body);
    connect(card, &Card::remove, this, [this, list = g.list, key = g.key, name = g.name] {
      document_.edit(tr("Remove %1").arg(QString::fromStdString(name)),
                     [&](Shot& s) { remove_item(s, list + "." + key); });
    });
    if (g.list == "pieces")
      connect(card, &Card::chosen, this,
              [this, key = g.key](bool besides) { document_.select(key, besides); });
    cards_.push_back(card);
    into->addWidget(card);
  }
  const auto link = [&](const QString& text, const char* name) {
    auto* b = new QPushButton(text, steps_[step - 1].body);
    b->setProperty("role", "link");
    b->setObjectName(name);
    into->addWidget(b, 0, Qt::AlignLeft);
    return b;
  };
  if (step == 1) {
    auto* add = link(tr("+ Add a piece"), "add_piece");
    auto* menu = new QMenu(add);
    for (int kind = 0; kind < int(kinds().size()); ++kind)
      menu->addAction(tr(kinds()[size_t(kind)].label), this, [this, kind] { add_piece(kind); });
    menu->addSeparator();
    menu->addAction(tr("From a file …"), this, [this] {
      const QString file = QFileDialog::getOpenFileName(window(), tr("Bring in a drawing or a model"), {},
                                                        tr("Drawings and models (%1)").arg(piece_patterns()));
      if (!file.isEmpty()) Q_EMIT file_wanted(file);
    });
    auto* paste = menu->addAction(tr("Drawing from the clipboard"), this,
                                  [this] { Q_EMIT file_wanted(clipboard_drawing()); });
    paste->setObjectName("paste_drawing");
    connect(menu, &QMenu::aboutToShow, paste, [paste] { paste->setEnabled(!clipboard_drawing().isEmpty()); });
    add->setMenu(menu);
  } else if (step == 2) {
    for (int kind = 0; kind < int(fluid_kinds().size()); ++kind) {
      const Option& o = fluid_kinds()[size_t(kind)];
      connect(link(tr("+ Add a %1").arg(tr(o.label).toLower()), (std::string("add_") + o.key).c_str()),
              &QPushButton::clicked, this, [this, kind] { add_fluid(kind); });
    }
    connect(link(tr("+ Add a pour"), "add_pour"), &QPushButton::clicked, this, &RecipePanel::add_pour);
  } else if (step == 3) {
    auto* add = link(tr("+ Add a force"), "add_force");
    auto* menu = new QMenu(add);
    for (int kind = 0; kind < int(force_kinds().size()); ++kind)
      menu->addAction(tr(force_kinds()[size_t(kind)].label), this, [this, kind] {
        document_.edit(tr("Add a force"), [&](Shot& s) { (void)add_new_force(s, kind, {}); });
      });
    add->setMenu(menu);
  } else if (step == 4) {
    estimate_ = new QLabel(steps_[3].body);
    estimate_->setWordWrap(true);
    estimate_->setObjectName("estimate");
    into->insertWidget(0, estimate_);
  } else if (step == 5) {
    into->addWidget(new SkinBox(skins_, steps_[4].body));
  } else if (step == 6) {
    auto* add = link(tr("+ Add a light"), "add_light");
    auto* menu = new QMenu(add);
    for (int kind = 0; kind < int(light_kinds().size()); ++kind)
      menu->addAction(tr(light_kinds()[size_t(kind)].label), this, [this, kind] {
        document_.edit(tr("Add a light"), [&](Shot& s) { (void)add_new_light(s, LightKind(kind), {}); });
      });
    menu->addSection(tr("Three and more, in place of these"));
    for (const LightSet& set : light_sets()) {
      auto* action = menu->addAction(tr(set.option.label), this, [this, make = set.make] {
        document_.edit(tr("Set up lights"), [&](Shot& s) { s.look.lights = make(); });
      });
      action->setToolTip(tr(set.help));
    }
    menu->setToolTipsVisible(true);
    add->setMenu(menu);
    into->insertWidget(0, add, 0, Qt::AlignLeft);  // above the many cards
    auto* material = link(tr("+ Add a material"), "add_material");
    auto* library = new QMenu(material);
    for (size_t kind = 0; kind < material_options().size(); ++kind) {
      const Option& o = material_options()[kind];
      library->addAction(swatch("kind", o.key), tr(o.label), this, [this, kind] {
        document_.edit(tr("Add a material"),
                       [&](Shot& s) { (void)add_new_material(s, NamedMaterial(kind), {}); });
      });
    }
    material->setMenu(library);
    into->insertWidget(0, material, 0, Qt::AlignLeft);
  } else if (step == 7) {
    deliver_->setParent(steps_[6].body);
    deliver_->show();
    into->addWidget(deliver_);
  }
}

void RecipePanel::refresh() {
  const auto groups = described_now();
  std::vector<const Group*> wanted;
  for (const Group& g : groups)
    if (step_of(g) == document_.step() && has_effect(g)) wanted.push_back(&g);
  bool same = wanted.size() == cards_.size();
  for (size_t i = 0; same && i < wanted.size(); ++i)
    same = cards_[i]->objectName() == "card_" + QString::fromStdString(wanted[i]->path()) &&
           cards_[i]->refresh(*wanted[i]);
  if (!same) rebuild_.start();
  mark_selected();
  for (int i = 0; i < 7; ++i) {
    const QString text = summary(i + 1);
    QLabel* l = steps_[i].summary;
    l->setText(l->fontMetrics().elidedText(text, Qt::ElideRight, 300));
    l->setToolTip(text);
    l->setVisible(document_.step() != i + 1);
    steps_[i].head->setEnabled(available(i + 1));
  }
  if (estimate_) {
    const Analysis& a = analyst_.now();
    estimate_->setText(a.ok ? tr("About <b>%1</b> for %2 cells of %3; %4 of memory, %5 of disk.")
                                  .arg(QString::fromStdString(format_duration(a.estimate.seconds)))
                                  .arg(QString::fromStdString(format_count(a.estimate.cells)))
                                  .arg(QString::fromStdString(format_quantity(a.cell_size, Unit::length)))
                                  .arg(QString::fromStdString(format_bytes(a.estimate.memory)))
                                  .arg(QString::fromStdString(format_bytes(a.estimate.disk)))
                            : tr("This shot can't be run yet; Checks says why."));
  }
}

void RecipePanel::show_item(const QString& path) {
  for (const Group& g : describe(document_.shot()))
    if (QString::fromStdString(g.path()) == path) document_.open_step(step_of(g));
  rebuild();
  for (Card* card : cards_)
    if (card->objectName() == "card_" + path)
      QTimer::singleShot(0, card, [this, card] { scroll_->ensureWidgetVisible(card); });
}

void RecipePanel::mark_selected() {
  for (Card* card : cards_)
    card->mark_chosen(document_.is_selected(card->objectName().section("card_pieces.", 1).toStdString()));
}

QString RecipePanel::summary(int step) const {
  const Shot& s = document_.shot();
  QStringList list;
  switch (step) {
    case 1:
      for (const Piece& p : s.pieces)
        if (const auto* word = std::get_if<Lettering>(&p.shape))
          list << tr("%1 “%2”").arg(QString::fromStdString(p.name), QString::fromStdString(word->text));
        else
          list << QString::fromStdString(p.name);
      return list.isEmpty() ? tr("Nothing yet: add a piece") : joined(list);
    case 2:
      for (const Pour& p : s.pours) {
        const bool fills = p.windows.list.empty() && p.fill_at.time;
        const Setting when = find_setting(s, "pours." + p.id + (fills ? ".fill_at" : ".windows"));
        const QString name = QString::fromStdString(p.name),
                      text = QString::fromStdString(when.text()).replace("-", " – ");
        list << (fills                                     ? tr("%1, full at %2").arg(name, text)
                 : on_frames(document_.clock(), p.windows) ? tr("%1, frames %2").arg(name, text)
                                                           : tr("%1, %2").arg(name, text));
      }
      return list.isEmpty() ? tr("Nothing pours yet") : joined(list);
    case 3:
      for (const Force& f : s.forces)
        if (settings_of(f).front().has_effect(s, f)) list << QString::fromStdString(f.name);
      return gravity_of(s.forces) == 0 ? joined(QStringList(tr("Weightless")) + list) : joined(list);
    case 4: {
      const Analysis& a = analyst_.now();
      static constexpr const char* details[] = {QT_TR_NOOP("Draft"), QT_TR_NOOP("Medium"),
                                                QT_TR_NOOP("Final"), QT_TR_NOOP("Own size")};
      QString detail = tr(details[int(s.run.detail)]);
      if (!a.ok) return detail;
      return tr("%1 %2 · %3 cells · ≈ %4")
          .arg(detail, QString::fromStdString(format_quantity(a.cell_size, Unit::length)),
               QString::fromStdString(format_count(a.estimate.cells)),
               QString::fromStdString(format_duration(a.estimate.seconds)));
    }
    case 5:
      return s.brings(FlowKind::liquid)
                 ? tr("Skin, smoothed over %1").arg(spoken(s, find_setting(s, "surface.smoothing")))
                 : tr("Not needed for smoke");
    case 6:
      for (const Light& l : s.look.lights) list << QString::fromStdString(l.name);
      return tr("%1 lens; %2")
          .arg(QString::fromStdString(format_quantity(s.camera.focal, Unit::focal)),
               list.isEmpty() ? tr("no lights") : joined(list));
    default:
      return tr("PNG images or H.264 video, %1 × %2").arg(s.film.width).arg(s.film.height);
  }
}

void RecipePanel::add_piece(int kind) {
  document_.edit(tr("Add a piece"), [&](Shot& s) { (void)add_new_piece(s, kind, {}); });
}

void RecipePanel::add_fluid(int kind) {
  document_.edit(tr("Add a %1").arg(tr(fluid_kinds()[size_t(kind)].label).toLower()),
                 [&](Shot& s) { (void)add_new_fluid(s, kind, {}); });
}

void RecipePanel::add_pour() {
  document_.edit(tr("Add a pour"), [&](Shot& s) {
    if (s.fluids.empty())
      (void)add_new_fluid<Smoke>(s, {});
    else
      (void)add_new_pour(s, {});
  });
}
