// OpenVDB's grids, whose code the library's package already holds. Without these declarations each file that
// touches a grid compiles all of its tree again, which takes up to half a minute.
#pragma once

#include <openvdb/openvdb.h>

namespace openvdb {
/// All classes of the tree of a kind of grid.
#define POUR_TREE_IS_COMPILED(TREE)                                                         \
  extern template class Grid<TREE>;                                                         \
  extern template class tree::Tree<TREE::RootNodeType>;                                     \
  extern template class tree::RootNode<TREE::RootNodeType::ChildNodeType>;                  \
  extern template class tree::InternalNode<TREE::RootNodeType::ChildNodeType::ChildNodeType, 5>; \
  extern template class tree::InternalNode<TREE::LeafNodeType, 4>

POUR_TREE_IS_COMPILED(FloatTree);
extern template class tree::LeafNode<float, 3>;
POUR_TREE_IS_COMPILED(Vec3STree);
extern template class tree::LeafNode<Vec3s, 3>;
}  // namespace openvdb
