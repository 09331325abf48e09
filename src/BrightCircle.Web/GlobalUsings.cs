// What every page speaks of.
global using BrightCircle.App;
global using BrightCircle.App.Catalogues;
global using BrightCircle.App.Words;
global using BrightCircle.Core;
