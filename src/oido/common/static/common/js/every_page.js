/** What every page has: the dialog of those who were signed out, dates in words, and the window's width for the server. */
import "./signed_out.js";
import "./dates.js";
import "./screen.js";
