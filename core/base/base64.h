// Base64 (RFC 4648, §4).
#pragma once
#include <string>

namespace pour {

std::string to_base64(const std::string& bytes);
/// False if the text is not base64.
bool from_base64(const std::string& letters, std::string& bytes);

}  // namespace pour
