/// Secrets by which services know this machine: in the desktop's keyring where there is one, else in a file that only
/// its owner may read. Never in studies, recipes, settings or logs.
#pragma once

#include <QObject>
#include <functional>
#include <string>

namespace hscaffold::app {

enum class TokenPlace { keyring, file };

/// @param done  told where it was put; not called once `context` is gone. An empty token takes away what is kept.
void keepToken(QObject* context, const std::string& name, const std::string& token,
               const std::function<void(TokenPlace)>& done);
/// @param done  given the token; empty if there is none
void readToken(QObject* context, const std::string& name, const std::function<void(const std::string&)>& done);

}  // namespace hscaffold::app
