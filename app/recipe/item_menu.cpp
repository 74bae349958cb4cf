#include "recipe/item_menu.h"

#include <QMenu>

#include "shot/edit.h"

using namespace pour;

namespace {

QString tr(const char* text) { return QObject::tr(text); }

}  // namespace

void fill_item_menu(QMenu* menu, Document& document, const std::string& path) {
  const auto add = [&](const QString& text, const char* key, const std::function<void(Shot&)>& change) {
    auto* action =
        menu->addAction(text, &document, [&document, text, change] { document.edit(text, change); });
    action->setObjectName(QString("%1_%2").arg(key, QString::fromStdString(path)));
    return action;
  };
  const bool is_piece = path.starts_with("pieces.");
  const std::string id = path.substr(path.find('.') + 1);
  menu->addAction(tr("Duplicate"), &document,
                  [&document, path, is_piece] {
                    std::string copy;
                    document.edit(tr("Duplicate"), [&](Shot& s) { copy = duplicate_item(s, path); });
                    if (is_piece && !copy.empty()) document.select(copy.substr(copy.find('.') + 1));
                  })
      ->setObjectName("duplicate_" + QString::fromStdString(path));
  add(tr("Move up"), "up", [path](Shot& s) { shift_item(s, path, -1); });
  add(tr("Move down"), "down", [path](Shot& s) { shift_item(s, path, 1); });
  if (!is_piece) return;
  menu->addSeparator();
  const auto settle = [&](const QString& text, const char* key, Settle how) {
    add(text, key, [id, how](Shot& s) { settle_piece(s, id, how); });
  };
  settle(tr("Set down on the floor"), "floor", Settle::floor);
  settle(tr("Move to the middle"), "centre", Settle::centre);
  settle(tr("Turn upright"), "upright", Settle::upright);
  for (const Fluid& fluid : document.shot().fluids) {
    const QString text = tr("Turn into %1 at the playhead").arg(QString::fromStdString(fluid.name));
    menu->addAction(text, &document,
                    [&document, text, id, fluid = fluid.id] {
                      std::string pour;
                      document.edit(text, [&](Shot& s) { pour = turn_into(s, id, fluid, document.frame()); });
                      if (!pour.empty()) document.show_item(QString::fromStdString(pour));
                    })
        ->setObjectName(QString::fromStdString("turn_into_" + fluid.id + "_" + path));
  }
  const Piece* piece = document.shot().piece(id);
  if (piece && std::holds_alternative<Model>(piece->shape))
    add(tr("Take apart"), "apart", [id](Shot& s) { (void)take_apart(s, id); });
}
