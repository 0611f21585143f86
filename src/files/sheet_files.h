/// A sheet as it goes out of the program: a labelled picture, a table, a page for a browser.
#pragma once

#include <functional>
#include <string>

#include "core/sheet/sheet.h"
#include "core/study/study.h"

namespace hscaffold {

/// Proofs together, as cells of a sheet or any others.
struct SheetContent {
  std::string title;
  const SheetPlan* plan = nullptr;       ///< null: proofs that are no cells of one sheet
  std::vector<const ProofInfo*> proofs;  ///< of a sheet: in any order, cells may be missing
  std::function<Bytes(std::int64_t)> png;
};

/// Comma separated, one line a proof: number, cell settings, seed, steps, guidance, hold by guide, mean hold, shift,
/// milliseconds, prompt (RFC 4180).
std::string sheetTable(const SheetContent& content);
/// One HTML file with the pictures in it; nothing is loaded from elsewhere.
std::string sheetPage(const SheetContent& content);
/// The cells in their matrix with labelled axes, hold and shift under each. An application of Qt Gui must exist.
/// @param cellWidth  pixels. @throws Problem (failed) if the picture would be larger than 120 megapixels.
Bytes sheetPicture(const SheetContent& content, int cellWidth = 256);
/// The same on pages of A4, upright or lying as the sheet is, for a printer: dark on white, values of both axes on
/// every page, sRGB said (PDF/A-1b). An application of Qt Gui must exist.
Bytes sheetPages(const SheetContent& content);
/// By the ending of the name: .png, .pdf, .csv, .html. @throws Problem
Bytes sheetFile(const SheetContent& content, const std::string& name);

}  // namespace hscaffold
