// The parts of a model, as one names them: “Jug”, “Jug/2” for the second of its surfaces that hang together,
// “Jug:3” for the third of its sides that edges part, “Jug^1” for the first of its hollows.
#pragma once
#include <string>
#include <vector>

#include "shape/model_bytes.h"

namespace pour {

/// What has this name, in the space of the whole; nothing where nothing has.
std::vector<ModelPart> named_part(const std::vector<ModelPart>&, const std::string& name);
/// What a model can be taken apart into: the names of its parts, or of the surfaces of a single one.
std::vector<std::string> parts_within(const std::vector<ModelPart>&);
/// What of it is at the place on its surface that is nearest to a point, from the largest to the smallest;
/// none that is all of it.
std::vector<std::string> parts_at(const std::vector<ModelPart>&, const Vec3f&);
/// Whether a name is that of a hollow.
bool is_hollow(const std::string& part);

}  // namespace pour
