// How commands are defined and the words of a command line are read, by CLI11.
#include "cli/command_line.h"

#include <fmt/format.h>

#include <CLI/CLI.hpp>
#include <algorithm>
#include <charconv>

#include "cli/help.h"

namespace opensum {
namespace {

// `-o,--output` as names of an option.
void read_names(const std::string& names, OptionFacts& facts) {
  for (std::size_t begin = 0; begin <= names.size();) {
    const std::size_t end = std::min(names.find(',', begin), names.size());
    const std::string name = names.substr(begin, end - begin);
    (name.starts_with("--") ? facts.long_names : facts.short_names).push_back(name);
    begin = end + 1;
  }
}

OptionFacts help_option(const std::string& meaning) {
  OptionFacts facts;
  read_names("-h,--help", facts);
  facts.meaning = meaning;
  return facts;
}

}  // namespace

Option& Option::value(const std::string& name) {
  facts_->value = name;
  return *this;
}

Option& Option::meaning(const std::string& text) {
  facts_->meaning = text;
  return *this;
}

Option& Option::needed() {
  parsed_->required();
  facts_->needed = true;
  return *this;
}

Option& Option::one_value_each() {
  parsed_->allow_extra_args(false);
  return *this;
}

Option& Option::comma_separated() {
  parsed_->delimiter(',');
  return *this;
}

Option& Option::excludes(const Option& other) {
  parsed_->excludes(other.parsed_);
  return *this;
}

Option& Option::about_reading(bool is) {
  facts_->about_reading = is;
  return *this;
}

Option& Option::refuses(Refusal refusal) {
  parsed_->check(
      CLI::Validator([refusal = std::move(refusal)](const std::string& text) { return refusal(text); }, ""));
  return *this;
}

Option& Option::not_empty() {
  return refuses([](const std::string& text) { return text.empty() ? "a name is missing" : ""; });
}

Option& Option::whole_number(std::size_t least, std::size_t greatest) {
  return refuses([least, greatest](const std::string& text) {
    std::size_t value = 0;
    const auto [end, error] = std::from_chars(text.data(), text.data() + text.size(), value);
    if (error == std::errc() && end == text.data() + text.size() && value >= least && value <= greatest)
      return std::string();
    constexpr std::size_t kUnheardOf = 1'000'000'000;
    const std::string most = greatest < kUnheardOf ? fmt::format(" to {}", greatest) : "";
    return fmt::format("a whole number from {}{} is needed, not `{}`", least, most, text);
  });
}

template <typename T>
Option Command::add(const std::string& names, T& into, const std::string& meaning, bool is_argument) {
  OptionFacts& facts = facts_->options.emplace_back();
  if (is_argument) {
    facts.argument = names;
  } else {
    read_names(names, facts);
    facts.value = "VALUE";
  }
  facts.meaning = meaning;
  facts.repeated = std::is_same_v<T, std::vector<std::string>>;
  return {*parsed_->add_option(names, into, meaning), facts};
}

Option Command::argument(const std::string& name, std::string& into, const std::string& meaning) {
  return add(name, into, meaning, true);
}

Option Command::argument(const std::string& name, std::vector<std::string>& into,
                         const std::string& meaning) {
  return add(name, into, meaning, true);
}

Option Command::option(const std::string& names, std::string& into, const std::string& meaning) {
  return add(names, into, meaning, false);
}

Option Command::option(const std::string& names, std::optional<std::string>& into,
                       const std::string& meaning) {
  return add(names, into, meaning, false);
}

Option Command::option(const std::string& names, std::vector<std::string>& into, const std::string& meaning) {
  return add(names, into, meaning, false);
}

Option Command::option(const std::string& names, std::size_t& into, const std::string& meaning) {
  return add(names, into, meaning, false);
}

Option Command::option(const std::string& names, std::optional<std::size_t>& into,
                       const std::string& meaning) {
  return add(names, into, meaning, false);
}

Option Command::flag(const std::string& names, bool& into, const std::string& meaning) {
  OptionFacts& facts = facts_->options.emplace_back();
  read_names(names, facts);
  facts.meaning = meaning;
  return {*parsed_->add_flag(names, into, meaning), facts};
}

Option Command::defined(const std::string& name) {
  const auto found =
      std::find_if(facts_->options.begin(), facts_->options.end(), [&](const OptionFacts& option) {
        return std::find(option.long_names.begin(), option.long_names.end(), name) != option.long_names.end();
      });
  return {*parsed_->get_option(name), *found};
}

void Command::runs(Chosen run) {
  parsed_->callback([run = std::move(run), chosen = chosen_] { *chosen = run; });
}

CommandLine::CommandLine(const std::string& purpose, const std::string& version)
    : app_(std::make_unique<CLI::App>(purpose, "opensum")), version_(version) {
  app_->set_help_flag("-h,--help");
  app_->set_version_flag("-V,--version", version);
  app_->require_subcommand(1);
  facts_.purpose = purpose;
  facts_.options.push_back(help_option("how it is used"));
  OptionFacts of_version;
  read_names("-V,--version", of_version);
  of_version.meaning = "which version this is";
  facts_.options.push_back(of_version);
}

CommandLine::~CommandLine() = default;

Command CommandLine::add(const std::string& name, const std::string& purpose, const std::string& examples) {
  CommandFacts& facts = commands_.emplace_back();
  facts.name = name;
  facts.purpose = purpose;
  facts.examples = examples;
  facts.options.push_back(help_option("this text"));
  CLI::App* const parsed = app_->add_subcommand(name, purpose);
  parsed->set_help_flag("-h,--help");
  return {*parsed, facts, chosen_};
}

const CommandFacts* CommandLine::find(const std::string& name) const {
  const auto found =
      std::find_if(commands_.begin(), commands_.end(), [&](const CommandFacts& c) { return c.name == name; });
  return found == commands_.end() ? nullptr : &*found;
}

const CommandFacts& CommandLine::facts_of(const std::vector<std::string>& words) const {
  const CommandFacts* const named = words.empty() ? nullptr : find(words.front());
  return named == nullptr ? facts_ : *named;
}

ParsedWords CommandLine::parse(const std::vector<std::string>& words) {
  ParsedWords parsed;
  try {
    // The parser takes them from the back.
    app_->parse(std::vector<std::string>(words.rbegin(), words.rend()));
    return parsed;
  } catch (const CLI::CallForVersion&) {
    parsed.told = version_ + '\n';
    return parsed;
  } catch (const CLI::CallForHelp&) {
    const std::vector<CLI::App*> chosen = app_->get_subcommands();
    const CommandFacts* const named = chosen.empty() ? nullptr : find(chosen.front()->get_name());
    parsed.told = named == nullptr ? help_of(facts_, commands_) : help_of(*named);
    return parsed;
  } catch (const CLI::ExtrasError& error) {
    parsed.fault = WordFault::left_over;
    parsed.left_over = app_->remaining(true);
    parsed.text = error.what();
  } catch (const CLI::ExcludesError& error) {
    parsed.fault = WordFault::excludes;
    parsed.text = error.what();
  } catch (const CLI::ArgumentMismatch& error) {
    parsed.fault = WordFault::values;
    parsed.text = error.what();
  } catch (const CLI::ConversionError& error) {
    parsed.fault = WordFault::no_number;
    parsed.text = error.what();
  } catch (const CLI::ValidationError& error) {
    parsed.fault = WordFault::refused;
    parsed.text = error.what();
  } catch (const CLI::ParseError& error) {
    parsed.fault = WordFault::incomplete;
    parsed.text = error.what();
  }
  return parsed;
}

}  // namespace opensum
