// Dates in forms other than ISO 8601, as the codes of strftime describe them.
#pragma once

#include <optional>
#include <string>
#include <string_view>
#include <vector>

#include "table/date_text.h"

namespace opensum {

/// What is wrong with a format.
struct DateFormatFault {
  std::string code;  ///< the code that is not read, or that another contradicts; empty where a day is missing
  bool repeated = false;
};

/// A format such as `%d.%m.%Y %H:%M`, ready to read cells. Codes: %Y (four digits) %y (69 to 99 are 1969 to
/// 1999) %m %b %B %d %e %j %a %A, %H or %I with %p, %M %S (with a fraction) %z, and %F %D %T %R %r for some
/// of them. Names are English, in any case; single digits may stand without their zero.
class DateFormat {
 public:
  /// Nothing where the format cannot be used; the fault says why.
  static std::optional<DateFormat> parse(std::string_view format, DateFormatFault& fault);

  /// Nothing for a text that does not fit as a whole, for a day that does not exist, and where its parts
  /// contradict one another (the wrong weekday, 13 o'clock PM).
  std::optional<WrittenDate> read(std::string_view text) const;

 private:
  struct Piece {
    char code = 0;  ///< 0 for a character that must stand there
    char literal = 0;
  };
  std::vector<Piece> pieces_;
};

}  // namespace opensum
