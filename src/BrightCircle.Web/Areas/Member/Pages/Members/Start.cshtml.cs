using BrightCircle.Core.Offer;
using BrightCircle.Web.House;
using Microsoft.AspNetCore.Mvc;

namespace BrightCircle.Web.Areas.Member.Pages;

/// <summary>Straight into what a plan starts with, or what is newest and open: of what was just bought where that is named, else of all; home where
/// nothing is.</summary>
public sealed class StartModel : MemberPage
{
    public IActionResult OnGet(long? plan)
    {
        // What the plan starts with comes before what is newest.
        if (plan is { } bought && Now.PlanById.GetValueOrDefault(new(bought)) is { } of && Now.StartOf(of) is { } begin && Decide(begin).IsOpen)
            return Redirect(PathOf(begin));
        if (plan is { } pass && Now.PlanById.GetValueOrDefault(new(pass)) is { } got && PlaceOf(got) is { } place) return Redirect(place);
        var open = Now.OpenTo(Visitor.Facts, Moment);
        var first = plan is { } id ? open.FirstOrDefault(r => Now.Book.PlansThatOpen(r.Thing, Moment).Any(p => p.Id.Value == id)) : null;
        return Redirect((first ?? open.FirstOrDefault()) is { } r ? PathOf(r) : "/me");
    }

    /// <summary>Where a plan leads that opens nothing to read: to its challenge, its space, its sessions, its tally.</summary>
    string? PlaceOf(Plan plan) => Now.Community.ChallengeOf(plan.Id) is { } challenge ? $"/challenges/{challenge.Id.Value}"
        : plan.Promise.Select(i => i.Covers switch
        {
            Coverage.OneSpace s => $"/spaces/{s.Space.Value}",
            Coverage.OneSeries => "/sessions",
            Coverage.OneTally t => $"/me/tallies/{t.Tally.Value}",
            // What stands on shelves is found by what of it is open.
            Coverage.Everything or Coverage.OnShelf or Coverage.OnePiece or Coverage.OneModule or Coverage.OneLesson or Coverage.WhatAPlanOpens => "",
            _ => throw new InvalidOperationException($"No such coverage: {i.Covers}"),
        }).ToArray() is { Length: > 0 } all && all.All(p => p.Length > 0) ? all[0] : null;
}
