// Reading a sheet of an Office Open XML workbook as its XML comes.
#include "files/sheet_parser.h"

#include <expat.h>
#include <fmt/format.h>

#include <charconv>

namespace opensum {
namespace {

// No workbook nests its elements nearly so deep.
constexpr std::size_t kDeepest = 64;

std::string_view local_name(const char* name) {
  const std::string_view whole = name;
  const std::size_t colon = whole.find(':');
  return colon == std::string_view::npos ? whole : whole.substr(colon + 1);
}

// The value of an attribute; empty without it.
std::string_view attribute(const char** attributes, std::string_view name) {
  for (; *attributes != nullptr; attributes += 2) {
    if (local_name(attributes[0]) == name) return attributes[1];
  }
  return {};
}

bool read_number(std::string_view text, std::size_t& number) {
  const auto [end, error] = std::from_chars(text.data(), text.data() + text.size(), number);
  return error == std::errc() && end == text.data() + text.size();
}

class SheetParser {
 public:
  SheetParser(CellGrid& grid, const CellTexts& texts, ReadFault& fault)
      : grid_(grid), texts_(texts), fault_(fault), parser_(XML_ParserCreate(nullptr)) {
    XML_SetUserData(parser_.get(), this);
    XML_SetElementHandler(
        parser_.get(),
        [](void* self, const char* name, const char** attributes) {
          static_cast<SheetParser*>(self)->begin(local_name(name), attributes);
        },
        [](void* self, const char* name) { static_cast<SheetParser*>(self)->end(local_name(name)); });
    XML_SetCharacterDataHandler(parser_.get(), [](void* self, const char* text, int size) {
      SheetParser& parser = *static_cast<SheetParser*>(self);
      if (parser.into_ != nullptr) parser.into_->append(text, static_cast<std::size_t>(size));
    });
  }

  // Takes up some of the XML; false after a fault.
  bool take(std::string_view part, std::string_view text, bool is_last) {
    const XML_Status status =
        XML_Parse(parser_.get(), text.data(), static_cast<int>(text.size()), is_last ? XML_TRUE : XML_FALSE);
    if (status == XML_STATUS_ERROR && fault_.words.empty())
      fault_.words = fmt::format("{}: {}", part, XML_ErrorString(XML_GetErrorCode(parser_.get())));
    return status != XML_STATUS_ERROR;
  }

 private:
  void stop(Code code, std::string words) {
    fault_ = {code, std::move(words)};
    XML_StopParser(parser_.get(), XML_FALSE);
  }

  void begin(std::string_view name, const char** attributes) {
    if (++depth_ > kDeepest)
      return stop(Code::workbook_damaged, fmt::format("its elements are nested deeper than {}", kDeepest));
    if (name == "sheetData") {
      in_data_ = true;
    } else if (name == "mergeCell") {
      read_merge(attribute(attributes, "ref"));
    } else if (in_data_ && name == "row") {
      begin_row(attribute(attributes, "r"));
    } else if (in_row_ && name == "c") {
      begin_cell(attributes);
    } else if (in_cell_ && name == "v") {
      cell_.has_value = true;
      into_ = &cell_.value;
    } else if (in_cell_ && name == "f") {
      cell_.has_formula = true;
      into_ = &cell_.formula;
    } else if (in_cell_ && name == "rPh") {
      in_phonetic_ = true;
    } else if (in_cell_ && name == "t" && !in_phonetic_) {
      into_ = &cell_.text;
    }
  }

  void end(std::string_view name) {
    --depth_;
    into_ = nullptr;
    if (name == "sheetData") in_data_ = false;
    if (name == "rPh") in_phonetic_ = false;
    if (in_cell_ && name == "c") end_cell();
    if (in_row_ && name == "row") end_row();
  }

  void begin_row(std::string_view number) {
    std::size_t row = row_.number + 1;
    if (!number.empty() && !read_number(number, row))
      return stop(Code::workbook_damaged, fmt::format("a row is called `{}`", number));
    row_ = GridRow();
    row_.number = row;
    column_ = 0;
    in_row_ = true;
  }

  void begin_cell(const char** attributes) {
    const std::string_view reference = attribute(attributes, "r");
    std::size_t row = row_.number;
    if (!reference.empty() && (!read_reference(reference, column_, row) || row != row_.number)) {
      return stop(Code::workbook_damaged,
                  fmt::format("a cell of row {} is called `{}`", row_.number, reference));
    }
    cell_ = StoredCell();
    cell_.column = column_;
    cell_.row = row_.number;
    cell_.type = attribute(attributes, "t");
    read_number(attribute(attributes, "s"), cell_.style);
    in_cell_ = true;
  }

  void end_cell() {
    in_cell_ = in_phonetic_ = false;
    std::string text = texts_.text_of(cell_, grid_);
    if (!text.empty()) {
      if (row_.cells.size() <= column_) row_.cells.resize(column_ + 1);
      row_.cells[column_] = std::move(text);
    }
    ++column_;
  }

  void end_row() {
    in_row_ = false;
    cells_ += row_.cells.size();
    if (cells_ > kMostCells) {
      return stop(Code::workbook_too_large, fmt::format("a sheet of it has more than {} cells", kMostCells));
    }
    const std::size_t number = row_.number;
    if (!row_.cells.empty()) grid_.rows.push_back(std::move(row_));
    row_ = GridRow();
    row_.number = number;
  }

  void read_merge(std::string_view text) {
    const std::size_t colon = text.find(':');
    MergedCells cells;
    if (colon == std::string_view::npos ||
        !read_reference(text.substr(0, colon), cells.first_column, cells.first_row) ||
        !read_reference(text.substr(colon + 1), cells.last_column, cells.last_row))
      return;
    ++cells.first_column;
    ++cells.last_column;
    grid_.merged.push_back(cells);
  }

  struct Free {
    void operator()(XML_Parser parser) const { XML_ParserFree(parser); }
  };

  CellGrid& grid_;
  const CellTexts& texts_;
  ReadFault& fault_;
  std::unique_ptr<XML_ParserStruct, Free> parser_;
  std::size_t depth_ = 0;
  bool in_data_ = false;
  bool in_row_ = false;
  bool in_cell_ = false;
  bool in_phonetic_ = false;
  GridRow row_;
  std::size_t column_ = 0;
  std::size_t cells_ = 0;
  StoredCell cell_;
  std::string* into_ = nullptr;
};

}  // namespace

bool read_reference(std::string_view text, std::size_t& column, std::size_t& row) {
  std::size_t i = 0;
  std::size_t letters = 0;
  for (; i < text.size() && text[i] >= 'A' && text[i] <= 'Z' && i < 4; ++i) {
    letters = letters * 26 + static_cast<std::size_t>(text[i] - 'A') + 1;
  }
  const bool good = letters > 0 && read_number(text.substr(i), row) && row > 0;
  if (good) column = letters - 1;
  return good;
}

std::shared_ptr<CellGrid> read_sheet_part(ZipParts& parts, const std::string& part, const CellTexts& texts,
                                          ReadFault& fault) {
  auto grid = std::make_shared<CellGrid>();
  SheetParser parser(*grid, texts, fault);
  bool good = true;
  const auto take = [&](std::string_view text) {
    good = parser.take(part, text, false);
    return good;
  };
  if (!parts.read(part, take)) {
    if (good) fault = parts.fault();
    return nullptr;
  }
  return parser.take(part, {}, true) ? grid : nullptr;
}

}  // namespace opensum
