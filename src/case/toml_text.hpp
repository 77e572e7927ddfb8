// Texts in TOML, and what they say.
#pragma once

#include <toml++/toml.h>

#include <filesystem>
#include <string>
#include <string_view>

namespace wavy {

/// What a text says. Throws an input error with its place where it is no TOML, longer than 1 MB, or has a key of more
/// parts than can be read.
toml::table parsed_toml(std::string_view text, const std::filesystem::path& file);

/// The text of a case file. Throws an input error where it cannot be read or is longer than 1 MB.
std::string text_of(const std::filesystem::path& file);

}  // namespace wavy
