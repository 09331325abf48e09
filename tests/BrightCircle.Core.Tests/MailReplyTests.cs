using BrightCircle.Core.Letters;
using Xunit;

namespace BrightCircle.Core.Tests;

/// <summary>What somebody says in an answer, without what stands below it. How mail programs put the answered letter is common practice; the signature’s sign
/// is
/// RFC 3676, section 4.3.</summary>
public class MailReplyTests
{
    [Theory]
    [InlineData("Yes, gladly.", "Yes, gladly.")]
    [InlineData("Yes.\r\n\r\nAnd thank you.\r\n", "Yes.\n\nAnd thank you.")]
    [InlineData("Yes.\n\nOn Tue, 24 Nov 2026 at 10:42, Tansy Lane <help@site.example> wrote:\n> Hello Una,\n>\n> when?\n", "Yes.")]
    // The line that says who wrote it, broken into two.
    [InlineData("Yes.\n\nOn Tue, 24 Nov 2026 at 10:42, Tansy Lane\n<help@site.example> wrote:\n\n> when?", "Yes.")]
    [InlineData("Yes.\n> when?", "Yes.")]
    // A line with a colon right above is the title of what is quoted, also where its paragraph is longer.
    [InlineData("One\ntwo\nthree\nThey wrote:\n> when?", "One\ntwo\nthree")]
    [InlineData("This is my list:\n\n- one\n- two", "This is my list:\n\n- one\n- two")]
    [InlineData("This is my list:", "This is my list:")]
    // What is answered piece by piece stays with what it answers.
    [InlineData("> when?\nOn Friday.\n> where?\nAt the gate.\n", "> when?\nOn Friday.\n> where?\nAt the gate.")]
    [InlineData("> when?\nOn Friday.\n> the rest\n> of it", "> when?\nOn Friday.")]
    [InlineData("Yes.\n-- \nUna Larkhill\nThe lane", "Yes.")]
    [InlineData("Yes.\n--\nUna", "Yes.")]
    [InlineData("Yes.\n-- \nUna\n\nThey wrote:\n> when?", "Yes.")]
    [InlineData("Yes -- or no", "Yes -- or no")]
    [InlineData("Yes.\n\n-----Original Message-----\nFrom: us\nwhen?", "Yes.")]
    [InlineData("Yes.\n\n--- Ursprüngliche Nachricht ---\nwhen?", "Yes.")]
    [InlineData("Yes.\n________________________________\nFrom: us\nwhen?", "Yes.")]
    [InlineData("Yes.\n_________", "Yes.\n_________")]
    [InlineData("Yes.\n\nFrom: Tansy Lane\nSent: Tuesday\nTo: Una\nSubject: When?\n\nHello", "Yes.")]
    [InlineData("From: here to there.\nAnd back.", "From: here to there.\nAnd back.")]
    [InlineData("---\nYes.", "---\nYes.")]
    [InlineData("> only\n> quoted", "")]
    [InlineData("", "")]
    [InlineData("\n\n", "")]
    public void The_words_stay_and_the_letter_below_them_goes(string text, string words) => Assert.Equal(words, MailReply.Words(text));
}
