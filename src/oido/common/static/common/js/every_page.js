/** What every page has: the dialog for people who were signed out, failed requests, dates in words, and the window's width for the server, menus. */
import "./signed_out.js";
import "./dates.js";
import "./failures.js";
import "./menu.js";
import "./offline.js";
import "./screen.js";
