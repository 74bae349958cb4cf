#include "base/openvdb_trees.h"

// What the package left out, since the compiler that built it had these functions inline.
namespace openvdb {
namespace {
template <class Tree>
using Root = typename Tree::RootNodeType;
template <class Tree>
using Upper = typename Root<Tree>::ChildNodeType;
template <class Tree>
using Lower = typename Upper<Tree>::ChildNodeType;
}  // namespace

template void Upper<FloatTree>::getNodeLog2Dims(std::vector<Index>&);
template void Lower<FloatTree>::getNodeLog2Dims(std::vector<Index>&);
template void Upper<Vec3STree>::getNodeLog2Dims(std::vector<Index>&);
template void Lower<Vec3STree>::getNodeLog2Dims(std::vector<Index>&);
template FloatTree::LeafNodeType* Root<FloatTree>::touchLeaf(const Coord&);
template Vec3STree::LeafNodeType* Root<Vec3STree>::touchLeaf(const Coord&);
}  // namespace openvdb
