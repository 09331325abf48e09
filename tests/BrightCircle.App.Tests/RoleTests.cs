using System.Reflection;
using System.Runtime.CompilerServices;
using BrightCircle.Data;
using Microsoft.Extensions.DependencyInjection;
using Xunit;

namespace BrightCircle.App.Tests;

/// <summary>
/// Every use case that somebody of the team can ask for, with each role: who isn't named here is turned away by the use case itself, whatever the pages show.
/// A new use case doesn't pass until it stands here.
/// </summary>
public class RoleTests
{
    [Fact]
    public async Task Each_use_case_turns_away_whoever_may_not()
    {
        await using var house = await House.Open();
        var found = new SortedDictionary<string, string>(StringComparer.Ordinal);
        foreach (var type in typeof(TeamActor).Assembly.GetTypes().Where(t => t is { IsClass: true, IsPublic: true } && !typeof(Delegate).IsAssignableFrom(t))
            .OrderBy(t => t.FullName, StringComparer.Ordinal))
            foreach (var method in type.GetMethods(BindingFlags.Public | BindingFlags.Instance | BindingFlags.DeclaredOnly)
                .Where(m => !m.IsSpecialName && m.GetParameters().Any(p => p.ParameterType == typeof(TeamActor))))
            {
                var may = "";
                foreach (var role in Enum.GetValues<TeamRole>())
                {
                    await using var scope = house.Services.CreateAsyncScope();
                    if (scope.ServiceProvider.GetService(type) is not { } use) continue;
                    if (await May(use, method, new(house.Owner.AccountId, "Somebody", role))) may += role.ToString()[0];
                }
                if (may.Length > 0) found[$"{type.Name}.{method.Name}"] = may;
            }
        var table = Table.Split('\n', StringSplitOptions.TrimEntries | StringSplitOptions.RemoveEmptyEntries).Select(l => l.Split(' '))
            .SelectMany(l => l[1..].Select(m => (Key: m, Value: l[0]))).ToDictionary(x => x.Key, x => x.Value);
        var wrong = found.Where(f => table.GetValueOrDefault(f.Key) != f.Value).Select(f => $"{f.Value} {f.Key} (here: {table.GetValueOrDefault(f.Key)})")
            .Concat(table.Keys.Where(k => !found.ContainsKey(k)).Select(k => $"{k} isn’t there any more"));
        Assert.True(!wrong.Any(), "\n" + string.Join('\n', wrong));
    }

    /// <summary>Whatever else goes wrong with nothing to work on: they weren't turned away for who they are.</summary>
    static async Task<bool> May(object use, MethodInfo method, TeamActor by)
    {
        try
        {
            var arguments = method.GetParameters().Select(p => p.ParameterType == typeof(TeamActor) ? by : Nothing(p)).ToArray();
            var done = (method.IsGenericMethodDefinition ? method.MakeGenericMethod(typeof(int)) : method).Invoke(use, arguments);
            if (done is Task task) await task.WaitAsync(TimeSpan.FromSeconds(60));
            return true;
        }
        catch (TargetInvocationException e) when (e.InnerException is NotAllowedException)
        {
            return false;
        }
        catch (NotAllowedException)
        {
            return false;
        }
        catch (Exception e) when (e is not TimeoutException)
        {
            return true;
        }
    }

    static object? Nothing(ParameterInfo p)
    {
        var type = p.ParameterType;
        if (type == typeof(string)) return "";
        if (type.IsValueType) return Nullable.GetUnderlyingType(type) is null ? Activator.CreateInstance(type) : null;
        if (type.IsArray) return Array.CreateInstance(type.GetElementType()!, 0);
        if (type.IsAbstract || type.IsInterface || typeof(Delegate).IsAssignableFrom(type) || type.ContainsGenericParameters) return null;
        return RuntimeHelpers.GetUninitializedObject(type);
    }

    /// <summary>The roles by their first letters (owner, editor, host, support), then what they may. The last lines are no use cases but what several of them
    /// share: each of those asks before it comes there.</summary>
    const string Table = """
        O MergeMembers.Do MergeMembers.Look MergeMembers.Others
        O AddPrice.Do Coupons.Close Coupons.Save Disputes.Answer EditPrice.Move EditPrice.Words ForgetMember.Do GoLive.Do MoneySettings.Save
        O MovePrice.Do MovePrice.TakeBack MovePromise.Do MovePromise.TakeBack OwnFields.Remove OwnFields.Save PeopleBatches.MoveIn RefundPayment.Do
        O RefundPayment.ToCredit SavePlan.Do SavePromise.Do SecondSteps.Require SecondSteps.TakeOff SetUpSigning.MakeKey SetUpSigning.Use
        O MakeProgramKey.Do OpenedLinks.Count
        O SetUpSite.Change TeamAccounts.Invite TeamAccounts.InviteAgain TeamAccounts.LetIn TeamAccounts.SetRole TeamAccounts.Shut WaiveOpen.Do
        OE AddLesson.Do AddModule.Do ChangeLessons.Do ChangeLetter.Restore ChangeLetter.Save ChangeLetter.Take Cohorts.Remove Cohorts.Save
        OE ContentSettings.Save DuplicateLesson.Do DuplicateModule.Do DuplicatePiece.Do EditRoutine.Change EditRoutine.FillIn EditRoutine.New
        OE EditRoutine.NewLetter EditRoutine.Remove EditRoutine.TakeOut EditRoutine.Turn ExportContent.Write ImportContent.Run ImportJobs.Again
        OE Mailings.NewFor
        OE ImportJobs.Start KeepFiles.Begin KeepFiles.Cut KeepFiles.Describe KeepFiles.Finish KeepFiles.Part KeepFiles.Remove KeepFiles.Replace
        OE KeepFiles.Whole LessonPatterns.Keep LessonPatterns.Remove Mailings.New MergeLesson.Do MoveLessons.Do OpenLesson.Do ReleaseContent.Cancel
        OE ReleaseContent.Open ReleaseContent.Withdraw RenameModule.Do ReorderOutline.Do ReorderOutline.Lesson ReorderOutline.Module SaveDoorway.Do
        OE SaveEdition.AnnounceLater SaveEdition.CopyInto SaveEdition.Do SaveEdition.Remove SaveEdition.Reschedule SaveEdition.Schedule
        OE SaveEdition.Withdraw SaveLesson.Do SaveLesson.Restore SaveMenu.Do SavePace.Do WelcomeSettings.Save SavePiece.Facts SavePiece.New SavePiece.Place
        OE SavePiece.PlaceLesson SavePiece.Publish SavePiece.Unpublish SaveShelf.Do SaveShelf.Remove SaveShelf.Step SaveWindows.Do
        OE SeriesOfLetters.Remove SeriesOfLetters.Save ShowHouseLetter.As ShowHouseLetter.Trial ShowMailing.Trial SitePages.Make SitePages.Remove
        OEH SavePersonCard.TakeDown
        OE SavePersonCard.SwitchWriting
        OE SavePersonCard.Switch SaveSpace.Close SaveSpace.Do SaveSpace.Move SaveSpace.Remove SpacesOfCohorts.Make ToldPrograms.Again ToldPrograms.Leave
        O Challenges.Make
        OE Challenges.Describe
        OE KeepSession.Do SaveSeries.Close SaveSeries.Do SaveSeries.Remove
        OE SitePages.Save SplitLesson.Do Tallies.Archive Tallies.Remove Tallies.Save Trash.PutLesson Trash.PutModule Trash.PutPiece Trash.Restore
        OS ContactWays.PutRight
        OS AddMember.Do CorrectMember.Do EndPlan.Do GivePlan.Do KeyLinks.Make KeyLinks.Revoke LookAtPayment.Settle PausePlan.Do PausePlan.Resume
        OS PeopleBatches.Give ReceiveMoney.CallOff ReceiveMoney.Confirm ReceiveMoney.Note SendLetterAgain.Do SetLetterAside.Do WayIn.Make
        OES Audiences.Remove Audiences.Save Cohorts.Out Cohorts.Put Mailings.NewTo Mailings.Remove Mailings.Save SendMailing.Do SendMailing.GoOn
        OES SendMailing.Pause SendMailing.Stop SendMailing.Withdraw
        OEH CareTalk.Bar CareTalk.LetGo CareTalk.LetStand CareTalk.LetWrite CareTalk.Look CareTalk.NeedBar
        OEH CareTalk.Settle
        OEHS CareTalk.MayBar TodayQuery.Load Waiting.Counts
        O CareTalk.SaveHolds CareTalk.Write
        OEHS Correspond.Answer Correspond.Assign Correspond.Forget Correspond.ForTeam Correspond.Inbox Correspond.Keep Correspond.Set
        OE SaveHours.Do SaveHours.End
        OEH BookHours.Cancel BookHours.Mark
        OEH Attend.Mark PlanSessions.Cancel PlanSessions.Change PlanSessions.Make PlanSessions.Remove
        OEH MarkSheets.Mark KeepTalk.Close KeepTalk.Helped KeepTalk.Hide KeepTalk.HidePost KeepTalk.Merge KeepTalk.Move KeepTalk.Pin
        OEH KeepTalk.Split
        OEHS AskAndAnswer.Answer AskAndAnswer.Hide AskAndAnswer.Settle EditingNow.Beat EditingNow.Leave KeepFiles.Find MemberTags.OnMany
        OEHS MemberTags.PutOn MemberTags.Remove MemberTags.Save MemberTags.TakeOff OwnFields.Fill SecondSteps.Begin SecondSteps.RenewSpares
        OEHS SecondSteps.TurnOff SecondSteps.TurnOn TeamNotes.Add TeamNotes.Remove TeamTasks.Add TeamTasks.Done TeamTasks.Reopen
        OEHS Books.End Books.ToCredit Deeds.Note Deeds.Write Grants.Give OutlineWork.Copy OutlineWork.NewLesson OutlineWork.Rewrite SendTrial.Do
        OEHS Tell.Of
        """;
}
