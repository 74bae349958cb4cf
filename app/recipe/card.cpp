#include "recipe/card.h"

#include <QHBoxLayout>
#include <QLabel>
#include <QLineEdit>
#include <QMenu>
#include <QMouseEvent>
#include <QPushButton>
#include <QRegularExpression>
#include <QStyle>
#include <QTimer>
#include <QVBoxLayout>
#include <QWidgetAction>

#include "recipe/flow_layout.h"
#include "recipe/item_menu.h"
#include "recipe/setting_row.h"
#include "theme.h"

using namespace pour;

namespace {

/// Words of the artist on a button or in a menu, where & would underline what follows.
QString as_label(QString words) { return words.replace('&', "&&"); }

const Setting* setting_of(const Group& g, const QString& key) { return g.find(key.toStdString()); }

/// The sentence of a card, with keys of values in braces.
QString sentence(const Group& g) { return Card::tr(g.sentence.c_str()); }

bool numeric(const Setting& s) {
  return std::holds_alternative<double>(s.value) || std::holds_alternative<int>(s.value);
}

}  // namespace

Card::Card(Document& document, const Group& group, bool removable, QWidget* parent)
    : QFrame(parent),
      document_(document),
      list_(QString::fromStdString(group.list)),
      key_(QString::fromStdString(group.path())) {
  setProperty("role", "card");
  setObjectName("card_" + key_);
  setAccessibleName(QString::fromStdString(group.name));
  auto* column = new QVBoxLayout(this);
  column->setContentsMargins(12, 10, 12, 10);
  column->setSpacing(6);
  auto* head = new QHBoxLayout;
  title_ = new QLabel(this);
  title_->setProperty("role", "title");
  head->addWidget(title_, 1);
  if (removable) add_menu(group, head);
  column->addLayout(head);
  build_sentence(group);
  if (sentence_) column->addWidget(sentence_);
  const auto add_rows = [&](Depth depth, QVBoxLayout* to, QWidget* owner) {
    for (const QString& key : row_keys(group, depth)) {
      auto* row = new SettingRow(document_, group, *setting_of(group, key), owner);
      rows_.append(row);
      shown_.append(key);
      to->addWidget(row);
    }
  };
  auto* main = new QVBoxLayout;
  main->setSpacing(2);
  add_rows(Depth::main, main, this);
  column->addLayout(main);
  if (!row_keys(group, Depth::more).isEmpty()) {
    auto* more = new QPushButton(tr("More"), this);
    more->setProperty("role", "link");
    more->setObjectName("more_" + key_);
    more->setCheckable(true);
    auto* box = new QWidget(this);
    auto* rows = new QVBoxLayout(box);
    rows->setContentsMargins(0, 0, 0, 0);
    rows->setSpacing(2);
    add_rows(Depth::more, rows, box);
    box->hide();
    connect(more, &QPushButton::toggled, this, [more, box](bool on) {
      box->setVisible(on);
      more->setText(on ? tr("Less") : tr("More"));
    });
    column->addWidget(more, 0, Qt::AlignLeft);
    column->addWidget(box);
  }
  refresh(group);
}

void Card::add_menu(const Group& group, QHBoxLayout* head) {
  const QString name = QString::fromStdString(group.name);
  const auto link = [&](const QString& text, const QString& key, const QString& accessible) {
    auto* b = new QPushButton(text, this);
    b->setProperty("role", "link");
    b->setObjectName(key + "_" + key_);
    b->setAccessibleName(accessible);
    head->addWidget(b);
    return b;
  };
  auto* change = link(tr("Change"), "change", tr("Duplicate, move or settle %1").arg(name));
  change->setToolTip(tr("Duplicates it, moves it in the list, sets it down"));
  auto* menu = new QMenu(change);
  connect(menu, &QMenu::aboutToShow, this, [this, menu] {
    menu->clear();
    fill_item_menu(menu, document_, key_.toStdString());
  });
  change->setMenu(menu);
  connect(link(tr("Remove"), "remove", tr("Remove %1").arg(name)), &QPushButton::clicked, this,
          &Card::remove);
}

void Card::mousePressEvent(QMouseEvent* e) {
  if (e->button() == Qt::LeftButton && e->position().y() < title_->geometry().bottom() + 6)
    Q_EMIT chosen(e->modifiers() & Qt::ControlModifier);
  QFrame::mousePressEvent(e);
}

void Card::mark_chosen(bool on) {
  if (property("chosen").toBool() == on) return;
  setProperty("chosen", on);
  style()->unpolish(this), style()->polish(this);
}

QStringList Card::row_keys(const Group& g, Depth depth) {
  const QString words = sentence(g);
  QStringList out;
  for (const Setting& s : g.settings) {
    if (s.depth != depth || !s.applies) continue;
    const QString key = QString::fromUtf8(s.key);
    if (g.key == "film" && (key == "title" || key == "width" || key == "height"))
      continue;  // these are edited where they are used
    if (words.contains("{" + key + "}") && !numeric(s) && key != "font" && key != "text") continue;
    out.append(key);
  }
  return out;
}

void Card::build_sentence(const Group& g) {
  const QString words = sentence(g);
  if (words.isEmpty()) return;
  sentence_ = new QWidget(this);
  auto* flow = new FlowLayout(sentence_, 4, 4);
  for (const QString& word : words.split(' ', Qt::SkipEmptyParts)) {
    static const QRegularExpression token("^\\{(\\w+)\\}([.,]?)$");
    if (const auto match = token.match(word); match.hasMatch() && setting_of(g, match.captured(1))) {
      const QString key = match.captured(1);
      const Setting& s = *setting_of(g, key);
      const QString path = QString::fromStdString(g.path(s));
      auto* button = new QPushButton(sentence_);
      button->setProperty("role", "token");
      button->setObjectName("token_" + path);
      button->setToolTip(QString::fromUtf8(s.help));
      button->setMaximumWidth(280);
      connect(button, &QPushButton::clicked, this, [this, path, button] { edit_token(path, button); });
      tokens_.append({key, button});
      flow->addWidget(button);
      if (!match.captured(2).isEmpty()) {
        button->setProperty("sticks", true);
        flow->addWidget(new QLabel(match.captured(2), sentence_));
      }
    } else {
      flow->addWidget(new QLabel(word, sentence_));
      if (word == "," || word == ".") flow->itemAt(flow->count() - 2)->widget()->setProperty("sticks", true);
    }
  }
}

void Card::edit_token(const QString& path, QPushButton* token) {
  Setting s;
  try {
    s = find_setting(document_.shot(), path.toStdString());
  } catch (const std::exception&) {
    return;
  }
  auto* menu = new QMenu(this);
  menu->setAttribute(Qt::WA_DeleteOnClose);
  const auto choose = [&](const QString& label, const QString& value, bool now, const QIcon& icon = {}) {
    QAction* a = menu->addAction(icon, as_label(label));
    a->setCheckable(true);
    a->setChecked(now);
    connect(a, &QAction::triggered, &document_, [this, path, value] { document_.set(path, value); });
  };
  if (const auto* c = std::get_if<Choice>(&s.value)) {
    for (size_t i = 0; i < s.options.size(); ++i)
      choose(QString::fromUtf8(s.options[i].label), s.options[i].key, c->index == int(i),
             swatch(s.key, s.options[i].key));
  } else if (std::holds_alternative<Choices>(s.value)) {
    add_choices(*menu, document_, path);
  } else if (const auto* b = std::get_if<bool>(&s.value); b && !s.options.empty()) {
    for (const bool yes : {false, true})
      choose(QString::fromUtf8(s.options[yes].label), yes ? "yes" : "no", *b == yes);
  } else if (const auto* f = std::get_if<FluidId>(&s.value)) {
    for (const Fluid& fluid : document_.shot().fluids)
      choose(QString::fromStdString(fluid.name), QString::fromStdString(fluid.id), fluid.id == f->id);
  } else if (const auto* p = std::get_if<PieceId>(&s.value)) {
    for (const Piece& piece : document_.shot().pieces)
      choose(QString::fromStdString(piece.name), QString::fromStdString(piece.id), piece.id == p->id);
  } else {
    auto* box = new QWidget(menu);
    auto* row = new QHBoxLayout(box);
    row->setContentsMargins(8, 6, 8, 6);
    row->addWidget(new QLabel(QString::fromUtf8(s.name), box));
    std::function<void(const Setting&)> show;
    QWidget* editor = make_editor(document_, path, s, box, show);
    editor->setObjectName("popup_" + path);
    show(s);
    editor->setMinimumWidth(160);
    row->addWidget(editor);
    auto* action = new QWidgetAction(menu);
    action->setDefaultWidget(box);
    menu->addAction(action);
    if (auto* field = qobject_cast<QLineEdit*>(editor)) {
      connect(field, &QLineEdit::returnPressed, menu, &QMenu::close, Qt::QueuedConnection);
      field->selectAll();
    }
    QTimer::singleShot(0, editor, [editor] { editor->setFocus(); });
  }
  menu->popup(token->mapToGlobal(QPoint(0, token->height() + 2)));
}

bool Card::refresh(const Group& g) {
  QStringList wanted = row_keys(g, Depth::main) + row_keys(g, Depth::more);
  QStringList keys;
  static const QRegularExpression token("\\{(\\w+)\\}");
  for (auto it = token.globalMatch(sentence(g)); it.hasNext();) keys.append(it.next().captured(1));
  QStringList have;
  for (const auto& t : tokens_) have.append(t.first);
  if (wanted != shown_ || keys != have) return false;
  title_->setText(QString::fromStdString(g.name));
  for (const auto& [key, button] : tokens_) {
    const Setting* s = setting_of(g, key);
    const QString text = as_label(spoken(document_.shot(), *s));
    if (button->text() != text) button->setText(text), button->updateGeometry();
    button->setAccessibleName(QString::fromUtf8(s->name) + ": " + text);
  }
  for (int i = 0; i < rows_.size(); ++i) rows_[i]->refresh(*setting_of(g, shown_[i]));
  if (sentence_) sentence_->layout()->invalidate();
  return true;
}
