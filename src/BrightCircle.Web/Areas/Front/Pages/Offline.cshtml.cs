using BrightCircle.Web.House;

namespace BrightCircle.Web.Areas.Front.Pages;

/// <summary>What stands where there is no network and the page that was wanted isn't kept: the same for everybody.</summary>
public sealed class OfflineModel : BrightPage;
