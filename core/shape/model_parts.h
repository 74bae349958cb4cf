// Names of the parts of a model: “Jug”; “Jug/2” for its second connected surface; “Jug:3” for its third side
// between sharp edges; “Jug^1” for its first hollow.
#pragma once
#include <string>
#include <vector>

#include "shape/model_bytes.h"

namespace pour {

/// The part with this name, in the model's frame of reference; nothing if there is none.
std::vector<ModelPart> named_part(const std::vector<ModelPart>&, const std::string& name);
/// Names of the parts into which a model can be split: its parts, or the connected surfaces of a single one.
std::vector<std::string> parts_within(const std::vector<ModelPart>&);
/// Names of the parts at the surface point nearest to `at`, from the largest to the smallest, without the
/// whole model.
std::vector<std::string> parts_at(const std::vector<ModelPart>&, const Vec3f&);
/// Whether a name denotes a hollow.
bool is_hollow(const std::string& part);

}  // namespace pour
