// A study of earlier results, made ready for other data. Its text is kept but for the paths in it, so that
// comments and layout are those of its author.
#include "starter/study_again.h"

#include <fmt/format.h>

#include <algorithm>
#include <filesystem>

#include "files/database_address.h"
#include "files/shared_files.h"
#include "files/toml_text.h"
#include "message/nearest.h"
#include "message/quoting.h"

namespace opensum {
namespace {

// A path as it is seen from a folder.
std::string seen_from(const std::string& path, const std::string& folder) {
  if (is_database_address(path)) return path;
  const auto absolute = [](const std::string& p) { return std::filesystem::absolute(p).lexically_normal(); };
  return absolute(path).lexically_relative(absolute(folder.empty() ? "." : folder)).string();
}

class Rewriter {
 public:
  Rewriter(const Recorded& record, std::string from, const std::map<std::string, std::string>& files,
           std::string folder, Diagnostics& diagnostics)
      : record_(record),
        from_(std::move(from)),
        files_(files),
        folder_(std::move(folder)),
        diagnostics_(diagnostics) {}

  StudyAgain run() {
    StudyAgain out;
    const auto source = std::make_shared<const Source>(record_.study, record_.texts.front().text);
    const auto toml = TomlText::parse(source, diagnostics_);
    if (!toml) return out;
    if (const toml::node* use = toml->root().get("use")) move_used(*toml, *use, out);
    const toml::node* sheets = toml->root().get("sheet");
    std::vector<TomlText::Entry> of_files;
    if (sheets != nullptr && sheets->is_table()) {
      for (const TomlText::Entry& sheet : toml->entries(*sheets->as_table())) {
        if (sheet.value->is_table() && sheet.value->as_table()->contains("data")) of_files.push_back(sheet);
      }
    }
    if (!names_are_good(of_files)) return out;
    for (const TomlText::Entry& sheet : of_files) move_data(*toml, sheet, of_files.size() == 1);
    out.text = record_.texts.front().text;
    std::sort(edits_.begin(), edits_.end(),
              [](const Edit& a, const Edit& b) { return a.span.begin > b.span.begin; });
    for (const Edit& edit : edits_)
      out.text.replace(edit.span.begin, edit.span.end - edit.span.begin, edit.text);
    return out;
  }

 private:
  struct Edit {
    Span span;
    std::string text;
  };

  bool names_are_good(const std::vector<TomlText::Entry>& sheets) {
    std::vector<std::string> names;
    for (const TomlText::Entry& sheet : sheets) names.push_back(sheet.key);
    for (const auto& [name, path] : files_) {
      const bool alone = name.empty() && sheets.size() == 1;
      if (alone || std::find(names.begin(), names.end(), name) != names.end()) continue;
      diagnostics_.add(Code::which_sheet,
                       {path, fmt::format("{}", fmt::join(names, ", ")),
                        fmt::format("{}={}", names.empty() ? "SHEET" : names.front(), path)});
      return false;
    }
    return true;
  }

  void replace(const Place& place, const std::string& text) { edits_.push_back({place.span, text}); }

  void move_data(const TomlText& toml, const TomlText::Entry& sheet, bool only_one) {
    const toml::node& data = *sheet.value->as_table()->get("data");
    auto given = files_.find(sheet.key);
    if (given == files_.end() && only_one) given = files_.find("");
    std::vector<const toml::node*> paths;
    if (data.is_string()) paths.push_back(&data);
    if (const toml::array* list = data.as_array()) {
      for (const toml::node& item : *list) paths.push_back(&item);
    }
    for (std::size_t i = 0; i < paths.size(); ++i) {
      const auto* text = paths[i]->as_string();
      if (text == nullptr) continue;
      if (given == files_.end()) {
        replace(toml.place(*text), toml_quoted(moved(text->get())));
      } else if (i == 0) {
        replace(toml.place(*text), toml_quoted(given->second == "-" || given->second.starts_with('/')
                                                   ? given->second
                                                   : seen_from(given->second, folder_)));
      } else {
        // The other files of a list go, each with the comma before it.
        const Place place = toml.place(*text);
        const std::size_t comma = record_.texts.front().text.rfind(',', place.span.begin);
        edits_.push_back({{comma, place.span.end}, ""});
      }
    }
  }

  // Where a file of the study is, seen from the new one.
  std::string moved(const std::string& path) const {
    if (path == "-" || path.starts_with('/')) return path;
    return seen_from(from_ + "/" + path, folder_);
  }

  void move_used(const TomlText& toml, const toml::node& use, StudyAgain& out) {
    std::vector<const toml::value<std::string>*> names;
    if (use.is_string()) names.push_back(use.as_string());
    if (const toml::array* list = use.as_array()) {
      for (const toml::node& item : *list) {
        if (item.is_string()) names.push_back(item.as_string());
      }
    }
    for (const auto* name : names) {
      const std::string path = name->get();
      std::error_code error;
      if (path.starts_with('/')) continue;
      if (std::filesystem::exists(from_ + "/" + path, error)) {
        replace(toml.place(*name), toml_quoted(moved(path)));
      } else if (find_shared(path).empty()) {
        const std::string own = std::filesystem::path(path).filename().string();
        const auto recorded = std::find_if(
            record_.texts.begin(), record_.texts.end(),
            [&](const StudyText& t) { return std::filesystem::path(t.path).filename().string() == own; });
        if (recorded == record_.texts.end()) continue;
        replace(toml.place(*name), toml_quoted(own));
        out.used.push_back({own, recorded->text});
      }
    }
  }

  const Recorded& record_;
  std::string from_;
  const std::map<std::string, std::string>& files_;
  std::string folder_;
  Diagnostics& diagnostics_;
  std::vector<Edit> edits_;
};

}  // namespace

StudyAgain study_again(const Recorded& record, const std::string& results,
                       const std::map<std::string, std::string>& files, const std::string& folder,
                       Diagnostics& diagnostics) {
  const std::string from = (std::filesystem::path(results) / record.study_folder).lexically_normal().string();
  return Rewriter(record, from.empty() ? "." : from, files, folder, diagnostics).run();
}

}  // namespace opensum
