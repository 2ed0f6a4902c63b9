using System.Text.Json.Nodes;
using FreshBoot.Formats.Texts;

namespace FreshBoot.Formats.Tests.Texts;

public class JsonPatchTests
{
    /// <summary>The appendix of RFC 6902, as far as it has results.</summary>
    [Theory]
    [InlineData("""{"foo":"bar"}""", """[{"op":"add","path":"/baz","value":"qux"}]""", """{"foo":"bar","baz":"qux"}""")]
    [InlineData(
        """{"foo":["bar","baz"]}""",
        """[{"op":"add","path":"/foo/1","value":"qux"}]""",
        """{"foo":["bar","qux","baz"]}"""
    )]
    [InlineData("""{"baz":"qux","foo":"bar"}""", """[{"op":"remove","path":"/baz"}]""", """{"foo":"bar"}""")]
    [InlineData(
        """{"foo":["bar","qux","baz"]}""",
        """[{"op":"remove","path":"/foo/1"}]""",
        """{"foo":["bar","baz"]}"""
    )]
    [InlineData(
        """{"baz":"qux","foo":"bar"}""",
        """[{"op":"replace","path":"/baz","value":"boo"}]""",
        """{"baz":"boo","foo":"bar"}"""
    )]
    [InlineData(
        """{"foo":{"bar":"baz","waldo":"fred"},"qux":{"corge":"grault"}}""",
        """[{"op":"move","from":"/foo/waldo","path":"/qux/thud"}]""",
        """{"foo":{"bar":"baz"},"qux":{"corge":"grault","thud":"fred"}}"""
    )]
    [InlineData(
        """{"foo":["all","grass","cows","eat"]}""",
        """[{"op":"move","from":"/foo/1","path":"/foo/3"}]""",
        """{"foo":["all","cows","eat","grass"]}"""
    )]
    [InlineData(
        """{"foo":"bar"}""",
        """[{"op":"add","path":"/child","value":{"grandchild":{}}}]""",
        """{"foo":"bar","child":{"grandchild":{}}}"""
    )]
    [InlineData("""{"/":9,"~1":10}""", """[{"op":"test","path":"/~01","value":10}]""", """{"/":9,"~1":10}""")]
    [InlineData(
        """{"foo":["bar"]}""",
        """[{"op":"add","path":"/foo/-","value":["abc","def"]}]""",
        """{"foo":["bar",["abc","def"]]}"""
    )]
    [InlineData("""{"a":1}""", """[{"op":"replace","path":"","value":[1]}]""", """[1]""")]
    public void Json_patches_do_what_the_standard_says(string document, string patch, string result)
    {
        var array = JsonNode.Parse(patch)!.AsArray();
        JsonPatch.Fault(array).ShouldBeNull();
        JsonNode.DeepEquals(JsonPatch.Apply(JsonNode.Parse(document), array), JsonNode.Parse(result)).ShouldBeTrue();
    }

    [Theory]
    [InlineData("""{"foo":"bar"}""", """[{"op":"add","path":"/baz/bat","value":"qux"}]""")]
    [InlineData("""{"baz":"qux"}""", """[{"op":"test","path":"/baz","value":"bar"}]""")]
    [InlineData("""{"a":[1]}""", """[{"op":"add","path":"/a/2","value":1}]""")]
    [InlineData("""{"a":[1]}""", """[{"op":"remove","path":"/a/01"}]""")]
    [InlineData("""{"a":{"b":1}}""", """[{"op":"move","from":"/a","path":"/a/b"}]""")]
    [InlineData("""{}""", """[{"op":"replace","path":"/a","value":1}]""")]
    public void A_json_patch_that_cannot_be_applied_leaves_the_document(string document, string patch)
    {
        var node = JsonNode.Parse(document);
        Should.Throw<JsonPatch.FailedException>(() => JsonPatch.Apply(node, JsonNode.Parse(patch)!.AsArray()));
        JsonNode.DeepEquals(node, JsonNode.Parse(document)).ShouldBeTrue();
    }
}
