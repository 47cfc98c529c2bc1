// Reading OpenDocument spreadsheets (ISO/IEC 26300).
#include <fmt/format.h>

#include <algorithm>
#include <charconv>
#include <cmath>
#include <cstring>
#include <pugixml.hpp>

#include "base/limits.h"
#include "files/workbook_reader.h"
#include "table/number_text.h"

namespace opensum {
namespace {

// A repeat count: at least 1; what is beyond all limits stays small enough to be added up.
std::size_t count_of(const pugi::xml_node& node, const char* attribute) {
  const unsigned long long count = node.attribute(attribute).as_ullong(1);
  return std::clamp<std::size_t>(count, 1, kMostCells + 1);
}

// Whether elements stand deeper inside one another than those of a workbook do.
bool is_too_deep(const pugi::xml_node& root) {
  struct Depth : pugi::xml_tree_walker {
    bool for_each(pugi::xml_node&) override { return depth() <= kDeepestXml; }
  };
  Depth depth;
  return !pugi::xml_node(root).traverse(depth);
}

// PT10H30M15.5S as hh:mm:ss; what is not of that form stays as it is.
std::string clock_of(std::string_view value) {
  double seconds = 0;
  std::string_view rest = value;
  if (!rest.starts_with("PT")) return std::string(value);
  rest.remove_prefix(2);
  while (!rest.empty()) {
    double number = 0;
    const auto [end, error] = std::from_chars(rest.data(), rest.data() + rest.size(), number);
    if (error != std::errc() || end == rest.data() + rest.size()) return std::string(value);
    const double each = *end == 'H' ? 3600 : *end == 'M' ? 60 : 1;
    seconds += number * each;
    rest.remove_prefix(static_cast<std::size_t>(end - rest.data()) + 1);
  }
  const std::string text = clock_text(seconds);
  return text.find(':') == std::string::npos ? std::string(value) : text;
}

class OdsSheet {
 public:
  /// `bytes` is the length of the document that the sheet is in.
  OdsSheet(const pugi::xml_node& table, std::size_t bytes)
      : table_(table), room_(bytes), grid_(std::make_shared<CellGrid>()) {}

  std::shared_ptr<CellGrid> run(ReadFault& fault) {
    if (read_rows(table_)) return grid_;
    fault = {Code::workbook_too_large, room_.reason()};
    return nullptr;
  }

 private:
  bool read_rows(const pugi::xml_node& parent) {
    for (const pugi::xml_node& node : parent.children()) {
      const std::string_view name = node.name();
      if (name == "table:table-row") {
        if (!read_row(node)) return false;
      } else if (name == "table:table-row-group" || name == "table:table-rows" ||
                 name == "table:table-header-rows") {
        if (!read_rows(node)) return false;
      }
    }
    return true;
  }

  bool read_row(const pugi::xml_node& node) {
    GridRow row = grid_->new_row(next_row_);
    std::size_t column = 0;
    for (const pugi::xml_node& cell : node.children()) {
      const std::string_view name = cell.name();
      if (name != "table:table-cell" && name != "table:covered-table-cell") continue;
      const std::size_t count = count_of(cell, "table:number-columns-repeated");
      std::string text = name == "table:table-cell" ? cell_of(cell, column) : std::string();
      if (!text.empty()) {
        // Empty cells are only there where others follow.
        if (!room_.take(column - row.cells.size(), 0) || !room_.take(count, text.size())) return false;
        row.cells.resize(column);
        row.cells.insert(row.cells.end(), count, grid_->texts->keep(text));
      }
      column = std::min(column + count, kMostCells + 1);
    }
    if (!room_.reason().empty()) return false;
    const std::size_t count = count_of(node, "table:number-rows-repeated");
    next_row_ = std::min(next_row_ + count, kMostCells + 1);
    if (row.cells.empty()) return true;
    std::size_t bytes = 0;
    for (const std::string_view cell : row.cells) bytes += sizeof cell + cell.size();
    if (!room_.take((count - 1) * row.cells.size(), bytes / row.cells.size())) return false;
    for (std::size_t i = 0; i < count; ++i) {
      GridRow& same = grid_->rows.emplace_back(grid_->new_row(row.number++));
      same.cells = row.cells;
    }
    return true;
  }

  // The text of a paragraph with its spaces, tabs and line breaks, notes left out.
  void append_text(const pugi::xml_node& node, std::string& out) {
    for (const pugi::xml_node& child : node.children()) {
      const std::string_view name = child.name();
      if (child.type() == pugi::node_pcdata || child.type() == pugi::node_cdata) {
        out += child.value();
      } else if (name == "text:s") {
        const std::size_t count = count_of(child, "text:c");
        // Of blanks without end no more is made than shows that there is no room for them.
        if (room_.take_text(count > kMostBlanks ? kMostCells * sizeof out : count)) out.append(count, ' ');
      } else if (name == "text:tab") {
        out += '\t';
      } else if (name == "text:line-break") {
        out += '\n';
      } else if (name != "office:annotation") {
        append_text(child, out);
      }
    }
  }

  std::string text_of(const pugi::xml_node& cell) {
    if (const auto value = cell.attribute("office:string-value")) return value.value();
    std::string text;
    bool first = true;
    for (const pugi::xml_node& paragraph : cell.children("text:p")) {
      if (!first) text += '\n';
      first = false;
      append_text(paragraph, text);
    }
    return text;
  }

  std::string cell_of(const pugi::xml_node& cell, std::size_t column) {
    const std::size_t columns = count_of(cell, "table:number-columns-spanned");
    const std::size_t rows = count_of(cell, "table:number-rows-spanned");
    if (columns > 1 || rows > 1) {
      grid_->merged.push_back({next_row_, next_row_ + rows - 1, column + 1, column + columns});
    }
    const std::string_view type = cell.attribute("office:value-type").value();
    if (type == "float" || type == "percentage" || type == "currency") {
      std::string stored = stored_number_text(cell.attribute("office:value").value());
      if (stored.empty()) return cell.attribute("table:formula").value();
      if (type == "percentage") grid_->percents.try_emplace(column, PercentCell{stored, next_row_});
      return stored;
    }
    const auto stored_or_formula = [&](const std::string& stored) {
      return stored.empty() ? std::string(cell.attribute("table:formula").value()) : stored;
    };
    if (type == "date") return stored_or_formula(cell.attribute("office:date-value").value());
    if (type == "time") return stored_or_formula(clock_of(cell.attribute("office:time-value").value()));
    if (type == "boolean") return stored_or_formula(cell.attribute("office:boolean-value").value());
    const std::string text = text_of(cell);
    // A formula without a stored value is no empty cell.
    return text.empty() && type.empty() ? cell.attribute("table:formula").value() : text;
  }

  const pugi::xml_node& table_;
  GridRoom room_;
  std::shared_ptr<CellGrid> grid_;
  std::size_t next_row_ = 1;
};

class OdsWorkbook : public Workbook {
 public:
  // Reads what the sheets are called; false where there is a fault.
  bool open(ZipParts& parts, ReadFault& fault) {
    if (parts.has("META-INF/manifest.xml")) {
      const auto manifest = parts.read("META-INF/manifest.xml");
      if (manifest && manifest->find("encryption-data") != std::string::npos) {
        fault.code = Code::workbook_locked;
        return false;
      }
    }
    auto content = parts.read("content.xml");
    if (!content) {
      fault = parts.fault();
      return false;
    }
    content_ = std::move(*content);
    const pugi::xml_parse_result result = document_.load_buffer_inplace(
        content_.data(), content_.size(), pugi::parse_default | pugi::parse_ws_pcdata, pugi::encoding_utf8);
    if (!result) {
      fault.words = fmt::format("content.xml: {}", result.description());
      return false;
    }
    if (is_too_deep(document_)) {
      fault = {Code::workbook_too_large,
               fmt::format("its elements stand more than {} deep inside one another", kDeepestXml)};
      return false;
    }
    const pugi::xml_node body =
        document_.child("office:document-content").child("office:body").child("office:spreadsheet");
    for (const pugi::xml_node& table : body.children("table:table")) {
      names_.emplace_back(table.attribute("table:name").value());
      tables_.push_back(table);
    }
    return true;
  }

  const std::vector<std::string>& sheets() const override { return names_; }

  std::shared_ptr<CellGrid> read(std::size_t sheet, ReadFault& fault) override {
    return OdsSheet(tables_[sheet], content_.size()).run(fault);
  }

 private:
  std::string content_;
  pugi::xml_document document_;
  std::vector<std::string> names_;
  std::vector<pugi::xml_node> tables_;
};

}  // namespace

std::unique_ptr<Workbook> open_ods(ZipParts& parts, ReadFault& fault) {
  auto workbook = std::make_unique<OdsWorkbook>();
  if (!workbook->open(parts, fault)) return nullptr;
  return workbook;
}

}  // namespace opensum
