// What a shell and a manual know of the command line, made from its own description.
#pragma once

#include <string>

namespace CLI {
class App;
}

namespace wavy {

/// What a shell reads to complete commands, options and their words: "bash", "zsh" or "fish".
std::string completion(const CLI::App& app, const std::string& shell);

/// The manual page in roff, for man(1): all commands with all options.
std::string manual_page(const CLI::App& app);

}  // namespace wavy
