// The menu of an item, from its card and on the stage.
#pragma once
#include "document.h"

class QMenu;

/// Adds the actions of the item at a path, “pieces.jar”; objects are named “duplicate_pieces.jar”.
void fill_item_menu(QMenu*, Document&, const std::string& path);
