// Two clocks that are derived at different rates, and a word that is handed from one to the other.
module top(input clk, input go, output reg [4:0] got, output reg done);
  reg [6:0] x = 0;
  reg [7:0] y = 0;
  reg fast = 0, slow = 0;
  always @(posedge clk) begin
    x <= x == 7'd36 ? 7'd0 : x + 1'b1;
    if (x == 7'd36) fast <= ~fast;
    y <= y == 8'd152 ? 8'd0 : y + 1'b1;
    if (y == 8'd152) slow <= ~slow;
  end
  reg [4:0] word = 1;
  reg ask = 0, answer = 0, a1 = 0, a2 = 0, q1 = 0, q2 = 0;
  always @(posedge fast) begin
    {a2, a1} <= {a1, answer};
    if (go && ask == a2) begin word <= {word[3:0], word[4] ^ word[2]}; ask <= ~ask; end
  end
  initial {got, done} = 0;
  always @(negedge slow) begin
    {q2, q1} <= {q1, ask};
    done <= 0;
    if (q2 != answer) begin got <= word; answer <= q2; done <= 1; end
  end
endmodule
