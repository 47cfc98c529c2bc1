// Reading Office Open XML spreadsheets (ISO/IEC 29500).
#include <fmt/format.h>

#include <atomic>
#include <charconv>
#include <cmath>
#include <iterator>
#include <map>
#include <optional>
#include <pugixml.hpp>

#include "base/limits.h"
#include "base/parallel.h"
#include "base/unicode.h"
#include "files/serial_dates.h"
#include "files/sheet_rows.h"
#include "files/workbook_reader.h"
#include "table/date_text.h"
#include "table/number_text.h"

namespace opensum {
namespace {

/// The calendar of 1900 counts a 29 February 1900, which was none; serial numbers before it are a day off.
constexpr double kAfterFalseLeapDay = 61;

// How the number in a cell is to be read.
enum class Shown : std::uint8_t { number, percent, date, clock };

std::string_view local_name(const pugi::xml_node& node) {
  const std::string_view name = node.name();
  const std::size_t colon = name.find(':');
  return colon == std::string_view::npos ? name : name.substr(colon + 1);
}

// The first child of a name, whatever the prefix of its namespace.
pugi::xml_node child(const pugi::xml_node& node, std::string_view name) {
  for (const pugi::xml_node& candidate : node.children()) {
    if (local_name(candidate) == name) return candidate;
  }
  return {};
}

// `_x000D_` stands for the character of that number (ST_Xstring); what no text may hold becomes U+FFFD.
std::string decoded(std::string_view text) {
  constexpr std::size_t kLength = 7;
  std::string out;
  for (std::size_t at = 0; at < text.size();) {
    const std::string_view rest = text.substr(at, kLength);
    unsigned code = 0;
    const bool escape = rest.size() == kLength && rest.starts_with("_x") && rest.back() == '_' &&
                        std::from_chars(rest.data() + 2, rest.data() + 6, code, 16).ptr == rest.data() + 6;
    if (!escape) {
      out += text[at++];
      continue;
    }
    const bool text_character = code != 0 && (code < 0xD800 || code > 0xDFFF);
    append_utf8(out, text_character ? code : 0xFFFD);
    at += kLength;
  }
  return out;
}

// The text in the t elements of a shared or inline string and of its runs, phonetic ones left out.
void append_strings(const pugi::xml_node& node, std::string& out) {
  for (const pugi::xml_node& part : node.children()) {
    if (local_name(part) == "t") out += decoded(part.child_value());
    if (local_name(part) != "r") continue;
    for (const pugi::xml_node& run : part.children()) {
      if (local_name(run) == "t") out += decoded(run.child_value());
    }
  }
}

// What a number format shows: its letters outside quotes, brackets and escapes tell.
Shown shown_by(std::string_view format) {
  bool day = false;
  bool clock = false;
  bool percent = false;
  for (std::size_t i = 0; i < format.size() && format[i] != ';'; ++i) {
    const char c = static_cast<char>(std::tolower(static_cast<unsigned char>(format[i])));
    if (c == '"') {
      i = std::min(format.find('"', i + 1), format.size());
    } else if (c == '[') {
      const std::size_t end = std::min(format.find(']', i), format.size());
      // [h] counts hours beyond a day; other brackets are colours and conditions.
      if (end > i + 1 && std::string_view("hms").find(static_cast<char>(std::tolower(
                             static_cast<unsigned char>(format[i + 1])))) != std::string_view::npos) {
        clock = true;
      }
      i = end;
    } else if (c == '\\' || c == '_' || c == '*') {
      ++i;
    } else {
      day = day || c == 'y' || c == 'd';
      clock = clock || c == 'h' || c == 's';
      percent = percent || c == '%';
    }
  }
  if (format == "General") return Shown::number;
  if (day) return Shown::date;
  if (clock) return Shown::clock;
  return percent ? Shown::percent : Shown::number;
}

// The formats that have a number instead of a text.
Shown shown_by(unsigned built_in) {
  if (built_in == 9 || built_in == 10) return Shown::percent;
  if ((built_in >= 18 && built_in <= 21) || (built_in >= 45 && built_in <= 47)) return Shown::clock;
  const bool date = (built_in >= 14 && built_in <= 17) || built_in == 22 ||
                    (built_in >= 27 && built_in <= 36) || (built_in >= 50 && built_in <= 58);
  return date ? Shown::date : Shown::number;
}

// `B12` as column (from 0) and row (from 1); false if it is of another form.
bool read_reference(std::string_view text, std::size_t& column, std::size_t& row) {
  std::size_t i = 0;
  std::size_t letters = 0;
  for (; i < text.size() && text[i] >= 'A' && text[i] <= 'Z' && i < 4; ++i) {
    letters = letters * 26 + static_cast<std::size_t>(text[i] - 'A') + 1;
  }
  const auto [end, error] = std::from_chars(text.data() + i, text.data() + text.size(), row);
  if (letters == 0 || error != std::errc() || end != text.data() + text.size() || row == 0) return false;
  column = letters - 1;
  return true;
}

class XlsxWorkbook : public Workbook {
 public:
  explicit XlsxWorkbook(ZipParts& parts) : parts_(parts) {}

  bool open(ReadFault& fault) {
    pugi::xml_document relations;
    pugi::xml_document workbook;
    if (!load("xl/_rels/workbook.xml.rels", relations, fault) || !load("xl/workbook.xml", workbook, fault)) {
      return false;
    }
    std::map<std::string, std::string> targets;
    for (const pugi::xml_node& relation : relations.first_child().children()) {
      std::string target = relation.attribute("Target").value();
      target.starts_with('/') ? target.erase(0, 1) : target.insert(0, "xl/");
      const std::string_view type = relation.attribute("Type").value();
      if (type.ends_with("/sharedStrings")) strings_part_ = target;
      if (type.ends_with("/styles")) styles_part_ = target;
      targets[relation.attribute("Id").value()] = std::move(target);
    }
    const pugi::xml_node root = workbook.document_element();
    const pugi::xml_attribute calendar = child(root, "workbookPr").attribute("date1904");
    if (calendar.as_bool()) epoch_ = kEpochOf1904;
    for (const pugi::xml_node& sheet : child(root, "sheets").children()) {
      for (const pugi::xml_attribute& attribute : sheet.attributes()) {
        const std::string_view name = attribute.name();
        // Sheets of charts and macros have no cells.
        if (!name.ends_with(":id") || targets[attribute.value()].find("worksheets/") == std::string::npos)
          continue;
        names_.emplace_back(sheet.attribute("name").value());
        sheet_parts_.push_back(targets[attribute.value()]);
      }
    }
    return read_strings(fault) && read_styles(fault);
  }

  const std::vector<std::string>& sheets() const override { return names_; }

  std::shared_ptr<CellGrid> read(std::size_t sheet, ReadFault& fault) override {
    const std::string& part = sheet_parts_[sheet];
    auto grid = std::make_shared<CellGrid>();
    grid->texts = texts_;
    RowsRead rows;
    rows.number = 0;
    const std::unique_ptr<Unpacking> unpacking = parts_.unpack(part);
    if (!unpacking) {
      fault = parts_.fault();
      return nullptr;
    }
    // Some pieces of rows are read while those after them are unpacked, and taken up in their order.
    struct Piece {
      std::string text;
      std::optional<PieceOfRows> rows;
    };
    std::vector<Piece> slots(threads() + 1);
    std::string cut;
    RowCutter cutter([&](std::string_view text) {
      cut = text;
      return true;
    });
    std::atomic<bool> good = true;
    for_each_given(
        slots.size(),
        [&](std::size_t, std::size_t slot) {
          cut.clear();
          while (good && cut.empty()) {
            const auto piece = unpacking->next();
            if (!piece) return false;
            cutter.take(*piece);
          }
          slots[slot].text.swap(cut);
          return good.load();
        },
        [&](std::size_t, std::size_t slot) { slots[slot].rows = read_ahead(part, slots[slot].text); },
        [&](std::size_t, std::size_t slot) {
          good = good && append(part, std::move(slots[slot].rows), slots[slot].text, rows, *grid, fault);
        });
    if (good && !unpacking->was_whole()) {
      fault = parts_.fault();
      good = false;
    }
    if (!good) return nullptr;
    const std::string rest = std::move(cutter).rest();
    rows.room.add_source(rest.size());
    pugi::xml_document document;
    if (!parse(part, rest, 0, document, fault)) return nullptr;
    const pugi::xml_node root = document.document_element();
    if (!read_rows(child(root, "sheetData"), rows, *grid, fault)) return nullptr;
    for (const pugi::xml_node& merge : child(root, "mergeCells").children()) read_merge(merge, *grid);
    return grid;
  }

 private:
  bool load(const std::string& part, pugi::xml_document& document, ReadFault& fault) {
    const auto text = parts_.read(part);
    if (!text) {
      fault = parts_.fault();
      return false;
    }
    return parse(part, *text, 0, document, fault);
  }

  static bool parse(const std::string& part, std::string_view text, unsigned more,
                    pugi::xml_document& document, ReadFault& fault) {
    const pugi::xml_parse_result result =
        document.load_buffer(text.data(), text.size(), pugi::parse_default | pugi::parse_ws_pcdata | more);
    if (!result) fault.words = fmt::format("{}: {}", part, result.description());
    return static_cast<bool>(result);
  }

  // How far the rows of a sheet were read.
  struct RowsRead {
    std::optional<std::size_t> number;  ///< of the last row; nothing where that is not known
    GridRoom room{0};
    std::size_t width = 0;  ///< cells of the last row
    std::size_t cells = 0;
    std::size_t bytes = 0;  ///< of their texts
  };

  // A piece of rows that was read before those before it were taken up.
  struct PieceOfRows {
    CellGrid grid;
    RowsRead read;
  };

  // Nothing where a piece must be read in its turn: it does not say the numbers of its rows, or there is
  // something about it that must be reported.
  std::optional<PieceOfRows> read_ahead(const std::string& part, std::string_view text) const {
    PieceOfRows piece;
    ReadFault reported_later;
    pugi::xml_document document;
    if (!parse(part, text, pugi::parse_fragment, document, reported_later)) return std::nullopt;
    if (!read_rows(document, piece.read, piece.grid, reported_later)) return std::nullopt;
    return piece;
  }

  // Adds the rows of a piece to the grid: those that were read, or else reads them.
  bool append(const std::string& part, std::optional<PieceOfRows> piece, std::string_view text,
              RowsRead& rows, CellGrid& grid, ReadFault& fault) const {
    rows.room.add_source(text.size());
    if (!piece) {
      pugi::xml_document document;
      return parse(part, text, pugi::parse_fragment, document, fault) &&
             read_rows(document, rows, grid, fault);
    }
    if (!rows.room.take(piece->read.cells, 0) || !rows.room.take_text(piece->read.bytes)) {
      fault = {Code::workbook_too_large, rows.room.reason()};
      return false;
    }
    if (piece->read.number) rows.number = piece->read.number;
    rows.width = piece->read.width;
    std::move(piece->grid.rows.begin(), piece->grid.rows.end(), std::back_inserter(grid.rows));
    grid.texts->add(std::move(*piece->grid.texts));
    grid.memory.add(std::move(piece->grid.memory));
    grid.percents.merge(piece->grid.percents);
    return true;
  }

  bool read_rows(const pugi::xml_node& parent, RowsRead& read, CellGrid& grid, ReadFault& fault) const {
    for (const pugi::xml_node& node : parent.children()) {
      if (local_name(node) != "row") continue;
      const pugi::xml_attribute stated = node.attribute("r");
      if (!stated && !read.number) return false;
      GridRow row = grid.new_row(stated.as_ullong(read.number.value_or(0) + 1));
      read.number = row.number;
      if (row.number > kMostSheetRows) {
        fault = {Code::workbook_too_large, fmt::format("a row of it has the number {}, and the limit is {}",
                                                       row.number, kMostSheetRows)};
        return false;
      }
      row.cells.reserve(read.width);
      if (!read_row(node, row, read, grid, fault)) return false;
      read.width = row.cells.size();
      if (!row.cells.empty()) grid.rows.push_back(std::move(row));
    }
    return true;
  }

  bool read_strings(ReadFault& fault) {
    if (strings_part_.empty() || !parts_.has(strings_part_)) return true;
    pugi::xml_document document;
    if (!load(strings_part_, document, fault)) return false;
    for (const pugi::xml_node& item : document.document_element().children()) {
      std::string text;
      append_strings(item, text);
      strings_.push_back(texts_->keep(text));
    }
    return true;
  }

  bool read_styles(ReadFault& fault) {
    if (styles_part_.empty() || !parts_.has(styles_part_)) return true;
    pugi::xml_document document;
    if (!load(styles_part_, document, fault)) return false;
    std::map<unsigned, Shown> formats;
    for (const pugi::xml_node& format : child(document.document_element(), "numFmts").children()) {
      formats[format.attribute("numFmtId").as_uint()] = shown_by(format.attribute("formatCode").value());
    }
    for (const pugi::xml_node& style : child(document.document_element(), "cellXfs").children()) {
      const unsigned format = style.attribute("numFmtId").as_uint();
      const auto own = formats.find(format);
      styles_.push_back(own == formats.end() ? shown_by(format) : own->second);
    }
    return true;
  }

  // What a cell says of itself.
  struct CellFacts {
    const char* reference = nullptr;
    std::string_view type;
    std::string_view style;
  };

  static CellFacts facts_of(const pugi::xml_node& cell) {
    CellFacts facts;
    for (const pugi::xml_attribute& attribute : cell.attributes()) {
      const std::string_view name = attribute.name();
      if (name == "r") facts.reference = attribute.value();
      if (name == "t") facts.type = attribute.value();
      if (name == "s") facts.style = attribute.value();
    }
    return facts;
  }

  bool read_row(const pugi::xml_node& node, GridRow& row, RowsRead& read, CellGrid& grid,
                ReadFault& fault) const {
    std::size_t column = 0;
    for (const pugi::xml_node& cell : node.children()) {
      std::size_t row_number = row.number;
      const CellFacts facts = facts_of(cell);
      if (facts.reference != nullptr &&
          (!read_reference(facts.reference, column, row_number) || row_number != row.number)) {
        fault.words = fmt::format("a cell of row {} is called `{}`", row.number, facts.reference);
        return false;
      }
      const std::string_view text = cell_text(cell, facts, column, row.number, grid);
      if (!text.empty()) {
        const std::size_t more = column + 1 - std::min(row.cells.size(), column + 1);
        if (!read.room.take(more, 0) || !read.room.take_text(text.size())) {
          fault = {Code::workbook_too_large, read.room.reason()};
          return false;
        }
        read.cells += more;
        read.bytes += text.size();
        row.cells.resize(row.cells.size() + more);
        row.cells[column] = text;
      }
      ++column;
    }
    return true;
  }

  std::string_view cell_text(const pugi::xml_node& cell, const CellFacts& facts, std::size_t column,
                             std::size_t row, CellGrid& grid) const {
    const auto keep = [&](std::string_view text) { return grid.texts->keep(text); };
    if (facts.type == "inlineStr") {
      std::string text;
      append_strings(child(cell, "is"), text);
      return keep(text);
    }
    const pugi::xml_node stored = child(cell, "v");
    const std::string_view value = stored.child_value();
    if (value.empty()) {
      // A formula without a stored value is no empty cell; one that gives an empty text is.
      const pugi::xml_node formula = child(cell, "f");
      const bool gives_text = stored && facts.type == "str";
      return formula && !gives_text ? keep(std::string("=") + formula.child_value()) : std::string_view();
    }
    if (facts.type == "s") {
      std::size_t index = strings_.size();
      std::from_chars(value.data(), value.data() + value.size(), index);
      return index < strings_.size() ? strings_[index] : "#REF!";
    }
    if (facts.type == "b") return value == "0" ? "false" : "true";
    if (facts.type == "str") return keep(decoded(value));
    if (facts.type == "e" || facts.type == "d") return keep(value);
    std::size_t style = 0;
    std::from_chars(facts.style.data(), facts.style.data() + facts.style.size(), style);
    const Shown shown = style < styles_.size() ? styles_[style] : Shown::number;
    if (shown == Shown::number && is_short_decimal(value)) return keep(value);
    std::string text = stored_number_text(value);
    if (shown == Shown::percent) grid.percents.try_emplace(column, PercentCell{text, row});
    if (shown == Shown::number || shown == Shown::percent) return keep(text);
    const NumberReading number = read_number(value);
    return keep(number.fault == NumberFault::none ? moment_text(number.value, shown) : text);
  }

  // A serial number of days as a date or a time of day: it holds no more than some microseconds.
  std::string moment_text(double serial, Shown shown) const {
    constexpr double kParts = 1e5;
    constexpr double kMostDays = 1e8;
    // Beyond all calendars it is no moment.
    if (!(std::fabs(serial) < kMostDays)) return number_text(serial, -1);
    if (shown == Shown::clock) return clock_text(std::round(serial * kSecondsPerDay * kParts) / kParts);
    const double day = epoch_ == kEpochOf1900 && serial < kAfterFalseLeapDay ? serial + 1 : serial;
    return date_text(instant_near(std::round((day - epoch_) * kSecondsPerDay * kParts) / kParts));
  }

  static void read_merge(const pugi::xml_node& merge, CellGrid& grid) {
    const std::string_view text = merge.attribute("ref").value();
    const std::size_t colon = text.find(':');
    MergedCells cells;
    if (colon == std::string_view::npos ||
        !read_reference(text.substr(0, colon), cells.first_column, cells.first_row) ||
        !read_reference(text.substr(colon + 1), cells.last_column, cells.last_row)) {
      return;
    }
    ++cells.first_column;
    ++cells.last_column;
    grid.merged.push_back(cells);
  }

  ZipParts& parts_;
  double epoch_ = kEpochOf1900;
  std::string strings_part_;
  std::string styles_part_;
  std::vector<std::string> names_;
  std::vector<std::string> sheet_parts_;
  std::shared_ptr<CellMemory> texts_ = std::make_shared<CellMemory>();
  std::vector<std::string_view> strings_;  ///< shared by cells; in the texts
  std::vector<Shown> styles_;
};

}  // namespace

std::unique_ptr<Workbook> open_xlsx(ZipParts& parts, ReadFault& fault) {
  auto workbook = std::make_unique<XlsxWorkbook>(parts);
  if (!workbook->open(fault)) return nullptr;
  return workbook;
}

}  // namespace opensum
