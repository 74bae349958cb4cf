// OpenVDB's grids as extern templates, whose code the library already has. Without these declarations each
// file that uses a grid would compile its tree again, for up to half a minute.
#pragma once

#include <openvdb/openvdb.h>

namespace openvdb {
#ifdef __SANITIZE_ADDRESS__
// The sanitizers see only code compiled here.
#define POUR_TREE_IS_COMPILED(TREE) static_assert(true)
#else
/// All classes of the tree of a grid type. Members that the library lacks, because its compiler inlined them,
/// are instantiated in openvdb_trees.cpp.
#define POUR_TREE_IS_COMPILED(TREE)                                                              \
  extern template class Grid<TREE>;                                                              \
  extern template class tree::Tree<TREE::RootNodeType>;                                          \
  extern template class tree::RootNode<TREE::RootNodeType::ChildNodeType>;                       \
  extern template class tree::InternalNode<TREE::RootNodeType::ChildNodeType::ChildNodeType, 5>; \
  extern template class tree::InternalNode<TREE::LeafNodeType, 4>
extern template class tree::LeafNode<float, 3>;
extern template class tree::LeafNode<Vec3s, 3>;
#endif

POUR_TREE_IS_COMPILED(FloatTree);
POUR_TREE_IS_COMPILED(Vec3STree);
}  // namespace openvdb
