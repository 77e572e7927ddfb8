#include "app/shell_pages.hpp"

#include <fmt/format.h>

#include <CLI/CLI.hpp>
#include <algorithm>
#include <vector>

#include "base/text.hpp"

namespace wavy {
namespace {

/// An option or a place of a command.
struct Argument {
  std::string name;  ///< "--into"; of a place its name
  bool place = false;
  bool takes_value = false;
  bool several = false;
  bool needed = false;
  std::vector<std::string> words{};  ///< all that it may be; empty where it may be anything
  std::string meaning;
};

struct Command {
  std::string name, meaning;
  std::vector<Argument> arguments;
};

/// The words of a value that is one of a few: CLI11 says them as "{one,other}".
std::vector<std::string> words_of(const CLI::Option& option) {
  std::vector<std::string> words;
  const std::string type = option.get_type_name();
  const auto open = type.find('{');
  const auto close = type.find('}', open);
  if (open == std::string::npos || close == std::string::npos) return words;
  for (std::size_t at = open + 1; at < close;) {
    const auto end = std::min(close, type.find(',', at));
    words.push_back(type.substr(at, end - at));
    at = end + 1;
  }
  return words;
}

std::vector<Argument> arguments_of(const CLI::App& app) {
  std::vector<Argument> arguments;
  for (const CLI::Option* option : app.get_options()) {
    const bool place = option->get_positional();
    Argument one{place ? option->get_name(true) : "--" + option->get_lnames().front(),
                 place,
                 option->get_items_expected_max() > 0,
                 option->get_items_expected_max() > 1,
                 option->get_required(),
                 words_of(*option),
                 option->get_description()};
    arguments.push_back(std::move(one));
  }
  return arguments;
}

std::vector<Command> commands_of(const CLI::App& app) {
  std::vector<Command> commands;
  for (const CLI::App* command : app.get_subcommands([](const CLI::App*) { return true; })) {
    commands.push_back({command->get_name(), command->get_description(), arguments_of(*command)});
    for (auto& own : arguments_of(app))
      if (own.name == "--quiet") commands.back().arguments.push_back(std::move(own));
  }
  return commands;
}

/// A text within single quotes, for any shell; what would end it or mean something in a list is left out.
std::string quoted(std::string text) {
  std::erase_if(text, [](char c) { return c == '\'' || c == '[' || c == ']' || c == ':' || c == '\\'; });
  return "'" + text + "'";
}

/// The first sentence.
std::string in_brief(const std::string& meaning) {
  return meaning.substr(0, std::min(meaning.find_first_of(";:("), meaning.find(". ")));
}

std::string joined(const std::vector<std::string>& words) { return fmt::format("{}", fmt::join(words, " ")); }

std::string names_of(const Command& command) {
  std::vector<std::string> names;
  for (const auto& one : command.arguments)
    if (!one.place) names.push_back(one.name);
  return joined(names);
}

/// The words that the places of a command may be.
std::string place_words(const Command& command) {
  std::vector<std::string> words;
  for (const auto& one : command.arguments)
    if (one.place) words.insert(words.end(), one.words.begin(), one.words.end());
  return joined(words);
}

std::string bash_completion(const std::vector<Command>& commands) {
  std::vector<std::string> names;
  std::string options;
  std::string values;
  std::string places;
  for (const auto& command : commands) {
    names.push_back(command.name);
    options += fmt::format("    {}) options='{}' ;;\n", command.name, names_of(command));
    if (const auto words = place_words(command); !words.empty())
      places += fmt::format("    {}) words='{}' ;;\n", command.name, words);
    for (const auto& one : command.arguments)
      if (!one.words.empty() && !one.place)
        values += fmt::format("    '{} {}') words='{}' ;;\n", command.name, one.name, joined(one.words));
  }
  return fmt::format(
      R"(# bash completion of wavy: source it, or put it into ~/.local/share/bash-completion/completions/wavy
_wavy() {{
  local here=${{COMP_WORDS[COMP_CWORD]}} before=${{COMP_WORDS[COMP_CWORD-1]}} options='' words=''
  COMPREPLY=()
  if [ "$COMP_CWORD" -eq 1 ]; then
    COMPREPLY=($(compgen -W '{} --help --version' -- "$here"))
    return
  fi
  case ${{COMP_WORDS[1]}} in
{}  esac
  case "${{COMP_WORDS[1]}} $before" in
{}  esac
  if [ -n "$words" ]; then
    COMPREPLY=($(compgen -W "$words" -- "$here"))
  elif [[ $here == -* ]]; then
    COMPREPLY=($(compgen -W "$options" -- "$here"))
  else
    case ${{COMP_WORDS[1]}} in
{}    *) ;;
    esac
    COMPREPLY=($(compgen -W "$words" -- "$here") $(compgen -f -- "$here"))
  fi
}}
complete -o filenames -F _wavy wavy
)",
      joined(names), options, values, places);
}

std::string zsh_completion(const std::vector<Command>& commands) {
  std::string names;
  std::string cases;
  for (const auto& command : commands) {
    names += fmt::format("    '{}:{}'\n", command.name, quoted(in_brief(command.meaning)).substr(1));
    names.pop_back();
    names.pop_back();
    names += "'\n";
    cases += fmt::format("    {}) _arguments", command.name);
    for (const auto& one : command.arguments) {
      const std::string meaning = quoted(in_brief(one.meaning));
      const std::string brief = meaning.substr(1, meaning.size() - 2);
      const std::string words = one.words.empty() ? "_files" : "(" + joined(one.words) + ")";
      if (one.place)
        cases += fmt::format(" '{}:{}:{}'", one.several ? "*" : "", one.name, words);
      else if (one.takes_value)
        cases += fmt::format(" '{}{}[{}]:value:{}'", one.several ? "*" : "", one.name, brief, words);
      else
        cases += fmt::format(" '{}[{}]'", one.name, brief);
    }
    cases += " ;;\n";
  }
  return fmt::format(R"(#compdef wavy
# zsh completion of wavy: put it as _wavy into a folder of $fpath
_wavy() {{
  local -a commands
  commands=(
{}  )
  if (( CURRENT == 2 )); then
    _describe command commands
    return
  fi
  local command=$words[2]
  shift words
  (( CURRENT-- ))
  case $command in
{}  esac
}}
if [ "$funcstack[1]" = _wavy ]; then _wavy "$@"; else compdef _wavy wavy; fi
)",
                     names, cases);
}

std::string fish_completion(const std::vector<Command>& commands) {
  std::string text = "# fish completion of wavy: put it into ~/.config/fish/completions/wavy.fish\n";
  for (const auto& command : commands) {
    text += fmt::format("complete -c wavy -f -n __fish_use_subcommand -a {} -d {}\n", command.name,
                        quoted(in_brief(command.meaning)));
    const std::string within = fmt::format("complete -c wavy -n '__fish_seen_subcommand_from {}'", command.name);
    for (const auto& one : command.arguments) {
      const std::string words = one.words.empty() ? "" : fmt::format(" -a '{}'", joined(one.words));
      if (one.place) {
        if (!words.empty()) text += within + words + "\n";
        continue;
      }
      text += fmt::format("{} -l {}{}{} -d {}\n", within, one.name.substr(2),
                          !one.takes_value    ? ""
                          : one.words.empty() ? " -r"
                                              : " -x",
                          words, quoted(in_brief(one.meaning)));
    }
  }
  return text;
}

/// Text as roff wants it: no line begins with a dot, hyphens are hyphens.
std::string roff(const std::string& text) {
  std::string out;
  for (const char c : text) {
    if (c == '\\')
      out += "\\e";
    else if (c == '-')
      out += "\\-";
    else
      out += c;
  }
  return out.starts_with('.') || out.starts_with('\'') ? "\\&" + out : out;
}

}  // namespace

std::string completion(const CLI::App& app, const std::string& shell) {
  const auto commands = commands_of(app);
  return shell == "bash"  ? bash_completion(commands)
         : shell == "zsh" ? zsh_completion(commands)
                          : fish_completion(commands);
}

std::string manual_page(const CLI::App& app) {
  std::string text = fmt::format(
      ".TH WAVY 1 \"\" \"wavy {}\" \"\"\n.SH NAME\nwavy \\- gas\\-liquid and liquid\\-liquid flow in tanks, pipes and "
      "separators\n.SH SYNOPSIS\n.B wavy\n.I COMMAND\n[\\fIOPTIONS\\fR]\n.SH DESCRIPTION\n{}\n.SH COMMANDS\n",
      WAVY_VERSION, roff(app.get_description()));
  for (const auto& command : commands_of(app)) {
    std::string places;
    for (const auto& one : command.arguments)
      if (one.place)
        places += fmt::format(" {}\\fI{}\\fR{}{}", one.needed ? "" : "[", roff(one.name), one.several ? " ..." : "",
                              one.needed ? "" : "]");
    text += fmt::format(".SS wavy {}{}\n{}.\n", roff(command.name), places, roff(command.meaning));
    for (const auto& one : command.arguments)
      text += fmt::format(".TP\n\\fB{}\\fR{}\n{}.\n", roff(one.name),
                          one.takes_value && !one.place ? " \\fIVALUE\\fR" : "", roff(one.meaning));
  }
  text +=
      ".SH FILES\nA case is one TOML file; \\fBwavy explain\\fR says what its keys mean. A run writes a folder of its "
      "own, CASE.run.\n.SH EXIT STATUS\n0: done. 1: a run failed or was interrupted, or a file could not be written. "
      "2: "
      "what was asked for cannot be meant; nothing was changed.\n.SH ENVIRONMENT\n.TP\nNO_COLOR\nThe program prints no "
      "colours in any case but for \\fBwatch\\fR on a terminal, which then leaves them out.\n";
  return text;
}

}  // namespace wavy
