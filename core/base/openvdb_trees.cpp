#include "base/openvdb_trees.h"

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
template FloatTree::LeafNodeType* Root<FloatTree>::touchLeaf(const Coord&);
template void Root<FloatTree>::addTile(const Coord&, const float&, bool);
template void Root<FloatTree>::addTile(Index, const Coord&, const float&, bool);
template void Upper<Vec3STree>::getNodeLog2Dims(std::vector<Index>&);
template void Lower<Vec3STree>::getNodeLog2Dims(std::vector<Index>&);
template Vec3STree::LeafNodeType* Root<Vec3STree>::touchLeaf(const Coord&);
template void Root<Vec3STree>::addTile(const Coord&, const Vec3s&, bool);
template void Root<Vec3STree>::addTile(Index, const Coord&, const Vec3s&, bool);
}  // namespace openvdb
